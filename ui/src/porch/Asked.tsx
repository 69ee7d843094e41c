import { useCallback, useState } from "react";
import { api, type Waiting } from "../api/client";
import { useDeed } from "../api/deeds";
import { Button } from "../kit/Button";
import { Area, Field } from "../kit/Field";

/** Asked is a text that somebody asks to have posted: it is posted as it is or as it is changed here, or refused with a reason. */
export function Asked({ w }: { w: Waiting }) {
  const deed = useDeed();
  const [text, setText] = useState(w.why);
  const [reason, setReason] = useState<string>();
  const decide = (body: { post: boolean; text?: string; reason?: string }, say: string) =>
    void deed(api.POST("/api/posts/{event}", { params: { path: { event: Number(w.item.slice("social/".length)) } }, body }), { say });
  const focus = useCallback((box: HTMLInputElement | null) => box?.focus(), []); // whoever refuses is about to say why
  const refusing = reason !== undefined;
  return (
    <div className="grid gap-1.5 py-1">
      <Area size="s" rows={3} aria-label={`What ${w.name ?? "they"} ask to post`} value={text} maxLength={4000} onChange={(e) => setText(e.target.value)} />
      {refusing && (
        <Field
          size="s"
          ref={focus}
          aria-label={`Why not, told to ${w.name ?? "them"}`}
          placeholder="why not, told in chat; or nothing"
          value={reason}
          maxLength={400}
          onChange={(e) => setReason(e.target.value)}
        />
      )}
      <span className="flex gap-1.5">
        {!refusing && (
          <Button size="s" look="lit" disabled={!text.trim()} onClick={() => decide({ post: true, text: text.trim() }, "It is on its way.")}>
            Post it
          </Button>
        )}
        <Button size="s" onClick={() => (refusing ? decide({ post: false, reason: reason.trim() || undefined }, "It is not posted.") : setReason(""))}>
          Do not post it
        </Button>
        {refusing && (
          <Button size="s" look="ghost" onClick={() => setReason(undefined)}>
            Back
          </Button>
        )}
      </span>
    </div>
  );
}
