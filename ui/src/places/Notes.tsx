import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Note } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, notes } from "../api/queries";
import { Answer } from "../kit/Answer";
import { Button } from "../kit/Button";
import { Field, Tick } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { useHouseNow, useZone, when } from "../kit/time";

/** Notes are what people left for the streamer: to be answered, done with, and found again. */
export function Notes() {
  const [text, setText] = useState("");
  const [open, setOpen] = useState(true);
  const q = useInfiniteQuery(notes({ q: text.trim() || undefined, open: open || undefined }));
  const list = q.data?.pages.flatMap((p) => p.notes) ?? [];
  return (
    <Panel label="Notes">
      <Head
        end={
          <Tick on={open} onChange={setOpen}>
            only what is not done with
          </Tick>
        }
      >
        Notes
      </Head>
      <div className="px-4 pb-2">
        <Field size="s" type="search" aria-label="Look through notes" placeholder="A name, a word of a note…" value={text} onChange={(e) => setText(e.target.value)} />
      </div>
      <Scroll label="Notes, the newest first" className="px-4 pb-3">
        {q.data && list.length === 0 && (
          <Empty>{text ? "No note is like that." : open ? "No note waits. Viewers leave one with a command, such as !note." : "Nobody has left a note yet."}</Empty>
        )}
        {list.map((n) => (
          <NoteRow key={n.event} n={n} />
        ))}
        {q.hasNextPage && (
          <Button size="s" className="mt-2" onClick={() => void q.fetchNextPage()}>
            Older ones
          </Button>
        )}
      </Scroll>
    </Panel>
  );
}

function NoteRow({ n }: { n: Note }) {
  const zone = useZone();
  const now = useHouseNow(30_000);
  const deed = useDeed();
  const [answering, setAnswering] = useState(false);
  return (
    <article className="note-row">
      <time className="sub tabular-nums" dateTime={n.at}>
        {when(n.at, now, zone)}
      </time>
      <div className="min-w-0">
        <b>
          <bdi>{n.name}</bdi>
        </b>
        {n.place && <span className="sub"> at {n.place}</span>}
        <p className="m-0 [overflow-wrap:anywhere]">
          <bdi>{n.text}</bdi>
        </p>
        {n.done && <span className="sub">done with{n.by && ` by ${n.by}`}</span>}
        {answering && <Answer event={n.event} name={n.name} onDone={() => setAnswering(false)} />}
      </div>
      <span className="flex gap-2">
        <Button size="s" aria-expanded={answering} onClick={() => setAnswering(!answering)}>
          Answer
        </Button>
        {!n.done && (
          <Button size="s" look="ghost" onClick={() => void deed(api.POST("/api/desk/waiting", { body: { item: `note/${n.event}`, act: "done" } }), { stale: [about.notes] })}>
            Done
          </Button>
        )}
      </span>
    </article>
  );
}
