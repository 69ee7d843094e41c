import { Tick } from "../../../kit/Field";
import { FromShelf, Row, type FormOf } from "./parts";
import { tokenOf } from "./colour";
import { KeyForm } from "./KeyForm";

/** Film sets what films here lose, and what stands in for one that does not load. */
export function Film({ box, set }: FormOf) {
  return (
    <>
      <Row label="Film key">
        <Tick on={!!box.key} onChange={(on) => set({ key: on ? { colour: tokenOf("--color-screen-key") } : undefined })}>
          a plain ground is taken out of films here
        </Tick>
      </Row>
      {box.key && <KeyForm value={box.key} onChange={(key, keep) => set({ key }, keep)} />}
      <Row label="Instead">
        <span className="few">
          <FromShelf label="Picture for a film that does not load" kind="picture" none="nothing" value={box.fallback} onPick={(fallback) => set({ fallback })} />
          <span className="sub">for a film that does not load</span>
        </span>
      </Row>
    </>
  );
}
