import { Num } from "../../../kit/Field";
import { Row, Type, type FormOf } from "./parts";

/** Emotes sets how many float at once, and how fast. */
export function Emotes({ box, set }: FormOf) {
  return (
    <>
      <Row label="At once">
        <span className="few">
          <Num label="At most so many at once" value={box.most ?? 12} onChange={(n) => n && set({ most: n })} /> <span className="sub">each for</span>
          <Num label="Each floats so many seconds" value={box.seconds ?? 5} onChange={(n) => n && set({ seconds: n })} /> <span className="sub">s</span>
        </span>
      </Row>
      <Type box={box} set={set} usual={56} of="an emote" />
    </>
  );
}
