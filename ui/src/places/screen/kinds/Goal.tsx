import { useQuery } from "@tanstack/react-query";
import { courtesies } from "../../../api/queries";
import { Field, Num, Tick } from "../../../kit/Field";
import { One } from "../../../kit/One";
import { Few, Row, Type, type FormOf } from "./parts";

const counts: [string, string][] = [
  ["lanterns", "lanterns lit tonight"],
  ["followers", "followers"],
  ["subscribers", "subscribers"],
  ["tips", "tips"],
  ["command", "how often a command was asked"],
];

function Counted({ box, set }: FormOf) {
  const q = useQuery(courtesies);
  const commands = (q.data?.courtesies ?? []).filter((c) => c.when === "command").map((c): [string, string] => [c.id, c.rule.asks?.[0] ?? c.id]);
  return (
    <>
      <Row label="Counts">
        <span className="few">
          <One
            label="What is counted"
            value={box.what ?? "lanterns"}
            list={counts}
            onPick={(what) =>
              set({
                what: what as typeof box.what,
                currency: what === "tips" ? (box.currency ?? "EUR") : undefined,
                command: what === "command" ? (box.command ?? commands[0]?.[0]) : undefined,
              })
            }
          />
          {box.what === "tips" && (
            <Field
              size="xs"
              className="w-16"
              aria-label="Currency"
              maxLength={3}
              defaultValue={box.currency}
              onBlur={(e) => e.target.value.trim().length === 3 && set({ currency: e.target.value.trim().toUpperCase() })}
            />
          )}
          {box.what === "tips" && (
            <Field
              size="xs"
              className="w-28"
              aria-label="Of the campaign"
              placeholder="any campaign"
              defaultValue={box.of}
              onBlur={(e) => set({ of: e.target.value.trim() || undefined })}
            />
          )}
          {box.what === "command" && <One label="The command" value={box.command ?? ""} list={commands} onPick={(command) => set({ command })} />}
        </span>
      </Row>
      {box.what !== "lanterns" && (
        <Row label="From">
          <span className="few">
            <Num label="It begins at" value={box.start ?? 0} onChange={(n) => set({ start: n || undefined })} />
            <Tick on={!!box.tonight} onChange={(on) => set({ tonight: on || undefined })}>
              anew each stream
            </Tick>
          </span>
        </Row>
      )}
    </>
  );
}

const Label = ({ box, set }: FormOf) => (
  <Row label="Words">
    <Field
      size="xs"
      aria-label="Its words"
      placeholder={box.title}
      defaultValue={box.label}
      maxLength={60}
      onBlur={(e) => e.target.value.trim() !== (box.label ?? "") && set({ label: e.target.value.trim() || undefined })}
    />
  </Row>
);

/** Goal sets what is counted towards what. */
export function Goal(p: FormOf) {
  const { box, set } = p;
  return (
    <>
      <Counted {...p} />
      <Row label="Target">
        <Num label="The target" value={box.target} onChange={(n) => n && set({ target: n })} />
      </Row>
      <Row label="Drawn as">
        <Few label="How it is drawn" value={box.as ?? "lanterns"} of={["lanterns", "bar"]} words={{ lanterns: "a row of lanterns", bar: "a bar" }} onPick={(as) => set({ as })} />
      </Row>
      <Type box={box} set={set} usual={32} of="the words" />
      <Label {...p} />
    </>
  );
}

/** Count sets what is counted. */
export function Count(p: FormOf) {
  return (
    <>
      <Counted {...p} />
      <Type {...p} usual={48} of="the number" />
      <Label {...p} />
    </>
  );
}
