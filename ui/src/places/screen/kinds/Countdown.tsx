import { api } from "../../../api/client";
import { useDeed } from "../../../api/deeds";
import { about } from "../../../api/queries";
import { Button, Out } from "../../../kit/Button";
import { Field, Num, Select } from "../../../kit/Field";
import { Few, Row, Type, type FormOf } from "./parts";

type Add = NonNullable<FormOf["box"]["adds"]>[number];

const what: [Add["for"], string][] = [
  ["month", "a subscription"],
  ["unit", "a unit of currency"],
  ["gift", "a gift"],
  ["credit", "a hundred credits"],
];

/** Countdown sets until when it counts, what lengthens it, and lets it go. */
export function Countdown({ box, set }: FormOf) {
  const deed = useDeed();
  const adds = box.adds ?? [];
  const put = (i: number, part: Partial<Add>) => set({ adds: adds.map((a, k) => (k === i ? { ...a, ...part } : a)) });
  const hand = (act: "go" | "pause" | "add" | "anew", seconds?: number) =>
    void deed(api.POST("/api/desk/countdown", { body: { box: box.id, act, seconds } }), { stale: [about.overlays] });
  return (
    <>
      <Row label="Counts">
        <span className="few">
          <Few
            label="How it counts"
            value={box.until ? "until" : "length"}
            of={["length", "until"]}
            words={{ length: "a length", until: "to a moment" }}
            onPick={(how) =>
              set(
                how === "until"
                  ? { until: new Date(Math.ceil(Date.now() / 3.6e6) * 3.6e6).toISOString().replace(".000", ""), seconds: undefined }
                  : { until: undefined, seconds: 3600 },
              )
            }
          />
          {box.until ? (
            <Field
              size="xs"
              type="datetime-local"
              aria-label="Until"
              defaultValue={local(box.until)}
              onBlur={(e) => e.target.value && set({ until: new Date(e.target.value).toISOString().replace(".000", "") })}
            />
          ) : (
            <>
              <Num label="Minutes" value={Math.round((box.seconds ?? 0) / 6) / 10} onChange={(n) => n && set({ seconds: n * 60 })} /> <span className="sub">min</span>
            </>
          )}
        </span>
      </Row>
      <Row label="By hand">
        <span className="few">
          <Button size="s" look="lit" onClick={() => hand("go")}>
            Let it go
          </Button>
          <Button size="s" onClick={() => hand("pause")}>
            Stop it
          </Button>
          <Button size="s" onClick={() => hand("add", 60)}>
            A minute more
          </Button>
          <Button size="s" onClick={() => hand("add", -60)}>
            A minute less
          </Button>
          <Button size="s" look="ghost" onClick={() => hand("anew")}>
            Anew
          </Button>
        </span>
      </Row>
      <Row label="Grows by">
        <div className="grid gap-1.5">
          {adds.map((a, i) => (
            <span key={i} className="few">
              <Num label={`Seconds that rule ${i + 1} adds`} value={a.seconds} onChange={(n) => n && put(i, { seconds: n })} /> <span className="sub">s for</span>
              <Select
                size="s"
                aria-label={`What rule ${i + 1} is for`}
                value={a.for}
                onChange={(e) => put(i, { for: e.target.value as Add["for"], currency: e.target.value === "unit" ? "EUR" : undefined, campaign: undefined })}
              >
                {what.map(([v, words]) => (
                  <option key={v} value={v}>
                    {words}
                  </option>
                ))}
              </Select>
              {a.for === "unit" && (
                <>
                  <Field
                    size="xs"
                    className="w-14"
                    aria-label={`Currency of rule ${i + 1}`}
                    maxLength={3}
                    defaultValue={a.currency}
                    onBlur={(e) => e.target.value.trim().length === 3 && put(i, { currency: e.target.value.trim().toUpperCase() })}
                  />
                  <Field
                    size="xs"
                    className="w-28"
                    aria-label={`Campaign of rule ${i + 1}`}
                    placeholder="any campaign"
                    defaultValue={a.campaign}
                    onBlur={(e) => put(i, { campaign: e.target.value.trim() || undefined })}
                  />
                </>
              )}
              <Out label={`Take rule ${i + 1} out`} onClick={() => set({ adds: adds.filter((_, k) => k !== i) })} />
            </span>
          ))}
          <span>
            <Button size="s" onClick={() => set({ adds: [...adds, { for: "month", seconds: 300 }] })}>
              Another rule
            </Button>
          </span>
        </div>
      </Row>
      <Row label="At most">
        <span className="few">
          <Num label="Support adds at most so many minutes" value={box.most ? box.most / 60 : undefined} onChange={(n) => set({ most: n ? n * 60 : undefined })} />{" "}
          <span className="sub">min by support; not beyond</span>
          <Field
            size="xs"
            type="datetime-local"
            aria-label="Nothing lengthens it beyond"
            defaultValue={local(box.stop)}
            onBlur={(e) => set({ stop: e.target.value ? new Date(e.target.value).toISOString().replace(".000", "") : undefined })}
          />
        </span>
      </Row>
      <Type box={box} set={set} usual={56} of="the figures" />
      <Row label="Words">
        <Field
          size="xs"
          aria-label="Its words"
          placeholder={box.title}
          defaultValue={box.label}
          maxLength={60}
          onBlur={(e) => set({ label: e.target.value.trim() || undefined })}
        />
      </Row>
    </>
  );
}

/** local is a moment as a field of the browser has it. */
function local(iso?: string): string {
  if (!iso) return "";
  const d = new Date(iso);
  return new Date(d.getTime() - d.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
