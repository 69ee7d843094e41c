import { useEffect, useRef } from "react";
import type { Overlay } from "../overlay/frames";
import { Stage } from "../overlay/stage";
import look from "../overlay/stage.css?inline";
import "./onscreen.css";

/** media is where a member's page has files of the shelf from. */
const media = (m: { name: string }) => `/api/media/${encodeURIComponent(m.name)}`;

/** apart is an element within another that the styles of this page do not reach: overlays have their own. */
function apart(e: HTMLElement): HTMLElement {
  const root = e.shadowRoot ?? e.attachShadow({ mode: "open" });
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(look);
  root.adoptedStyleSheets = [sheet];
  const inner = document.createElement("div");
  inner.style.cssText = "position: absolute; inset: 0";
  root.replaceChildren(inner);
  return inner;
}

/** useStage draws an overlay into an element; with a sample in every box, unless it is empty until something is shown. */
export function useStage(o: Overlay, empty = false) {
  const at = useRef<HTMLDivElement>(null);
  const stage = useRef<Stage>(undefined);
  useEffect(() => {
    const s = new Stage(apart(at.current!), { media, now: () => Date.now(), mute: true });
    stage.current = s;
    return () => s.gone();
  }, []);
  const drawn = JSON.stringify(o);
  useEffect(() => {
    const now = JSON.parse(drawn) as Overlay;
    stage.current?.stand(now, {});
    if (!empty) now.boxes?.forEach((b) => stage.current?.sample(b.id, true));
  }, [drawn, empty]);
  return { at, stage };
}
