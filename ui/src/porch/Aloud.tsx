import { api, type Waiting } from "../api/client";
import { useDeed } from "../api/deeds";
import { Button } from "../kit/Button";

/** Aloud is somebody's words that are read aloud once they are allowed. */
export function Aloud({ w }: { w: Waiting }) {
  const deed = useDeed();
  const act = (what: "hurry" | "drop", say: string) => void deed(api.POST("/api/desk/line", { body: { line: w.item.slice("allow/".length), act: what } }), { say });
  return (
    <div className="grid gap-1.5 py-1">
      <bdi className="[overflow-wrap:anywhere]">“{w.why}”</bdi>
      <span className="flex gap-1.5">
        <Button size="s" look="lit" onClick={() => act("hurry", "It is read.")}>
          Read it
        </Button>
        <Button size="s" onClick={() => act("drop", "It is not read.")}>
          Do not read it
        </Button>
      </span>
    </div>
  );
}
