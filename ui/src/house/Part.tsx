import type { ReactNode } from "react";
import { Panel, Scroll } from "../kit/Panel";

/** Part is one part of the house: a board with a sentence for its heading. */
export function Part({ title, label, children }: { title: ReactNode; label: string; children: ReactNode }) {
  return (
    <Panel label={label}>
      <Scroll className="ed" label={`${label}, its settings`}>
        <h1 className="sent">{title}</h1>
        {children}
      </Scroll>
    </Panel>
  );
}
