import { Num } from "../../../kit/Field";
import { Few, Row, type FormOf } from "./parts";

/** Rail sets how many hang there, and when their names show. */
export function Rail({ box, set }: FormOf) {
  return (
    <>
      <Row label="At most">
        <span className="few">
          <Num label="At most so many lanterns" value={box.most ?? 24} onChange={(n) => n && set({ most: n })} /> <span className="sub">lanterns, the newest</span>
        </span>
      </Row>
      <Row label="Names">
        <Few label="When names show" value={box.names ?? "as they come"} of={["as they come", "always", "never"]} onPick={(names) => set({ names })} />
      </Row>
    </>
  );
}
