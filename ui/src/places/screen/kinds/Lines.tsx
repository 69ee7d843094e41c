import { Num, Tick } from "../../../kit/Field";
import { Few, Row, Type, type FormOf } from "./parts";

const sorts = ["viewers", "commands", "the house", "neighbours"];

/** Lines sets which lines of chat are shown, how long and in which look. */
export function Lines({ box, set }: FormOf) {
  const show = box.show?.length ? box.show : ["viewers", "the house"];
  return (
    <>
      <Row label="Look">
        <Few label="How lines look" value={(box.look ?? "slate") as "slate"} of={["chalk", "slate", "waterline"] as const} onPick={(look) => set({ look })} />
      </Row>
      <Type box={box} set={set} usual={30} of="the words" />
      <Row label="Shows">
        <span className="few">
          {sorts.map((s) => (
            <Tick
              key={s}
              on={show.includes(s)}
              onChange={(on) => {
                const next = sorts.filter((x) => (x === s ? on : show.includes(x)));
                if (next.length) set({ show: next });
              }}
            >
              {s}
            </Tick>
          ))}
        </span>
      </Row>
      <Row label="Stays">
        <span className="few">
          <Tick on={!box.seconds} onChange={(on) => set({ seconds: on ? undefined : 20 })}>
            until others take its place
          </Tick>
          {!!box.seconds && (
            <>
              <Num label="A line stays so many seconds" value={box.seconds} onChange={(n) => n && set({ seconds: n })} /> <span className="sub">s</span>
            </>
          )}
        </span>
      </Row>
      <Row label="Platform">
        <Few label="The platform's mark" value={box.marks ?? "when several"} of={["when several", "always", "never"]} onPick={(marks) => set({ marks })} />
      </Row>
    </>
  );
}
