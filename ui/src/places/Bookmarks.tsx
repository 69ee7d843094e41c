import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, type StreamBookmarks } from "../api/client";
import { useDeed, useMark } from "../api/deeds";
import { about, bookmarks } from "../api/queries";
import { Button, buttonLook, Out, Quiet } from "../kit/Button";
import { Fault, Field, Select } from "../kit/Field";
import { Kept } from "../keeping/Line";
import { useSection } from "../keeping/useSection";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { dayIn, useZone } from "../kit/time";

/** Bookmarks are the moments of the last streams that were marked, and the keys that mark from outside. */
export function Bookmarks() {
  const q = useQuery(bookmarks);
  const mark = useMark();
  if (!q.data) return <Panel label="Bookmarks" />;
  return (
    <div className="ropes">
      <Panel label="Bookmarks">
        <Head
          end={
            <Button size="s" onClick={mark}>
              Mark this moment
            </Button>
          }
        >
          Bookmarks
        </Head>
        <Scroll label="Bookmarks by stream" className="px-4 pb-3">
          {q.data.streams.length === 0 && (
            <Empty>
              <b>No moment is marked yet.</b> Press <kbd>B</kbd> on the Porch while a stream is on; a command such as !mark does it from chat.
            </Empty>
          )}
          {q.data.streams.map((s) => (
            <OfStream key={s.number} s={s} />
          ))}
        </Scroll>
      </Panel>
      <Keys />
    </div>
  );
}

function OfStream({ s }: { s: StreamBookmarks }) {
  const zone = useZone();
  const file = (format: "vtt" | "text") => `/api/streams/${s.number}/chapters?format=${format}`;
  return (
    <section aria-label={`Stream ${s.number}`} className="py-2">
      <h3 className="m-0 flex items-baseline gap-2 text-[14px]">
        Stream {s.number} <span className="sub font-normal">{dayIn(s.opened, zone)}</span>
        <span className="ml-auto flex gap-2">
          <a className={buttonLook({ size: "s" })} href={file("vtt")} download>
            As chapters
          </a>
          <a className={buttonLook({ size: "s", look: "ghost" })} href={file("text")} download>
            As a list
          </a>
        </span>
      </h3>
      <ol className="m-0 list-none p-0">
        {s.bookmarks.map((b) => (
          <li key={b.event} className="mark-row">
            <b className="tabular-nums">{b.into}</b>
            <Label key={b.label} b={b} />
            <span className="sub">
              <bdi>{b.by}</bdi>
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** Label is what a bookmark is called; a press changes it. */
function Label({ b }: { b: StreamBookmarks["bookmarks"][number] }) {
  const deed = useDeed();
  const [typed, setTyped] = useState<string>();
  const box = useCallback((el: HTMLInputElement | null) => el?.focus(), []); // whoever pressed it is about to write
  if (typed === undefined)
    return (
      <Quiet className="text-left [overflow-wrap:anywhere] text-text" title="Change what it is called" onClick={() => setTyped(b.label)}>
        <bdi>{b.label || <span className="text-text-3">no label</span>}</bdi>
      </Quiet>
    );
  const keep = () => {
    setTyped(undefined);
    if (typed.trim() !== b.label)
      void deed(api.PUT("/api/bookmarks/{event}/label", { params: { path: { event: b.event } }, body: { label: typed.trim() } }), { stale: [about.bookmarks] });
  };
  return (
    <Field
      size="xs"
      ref={box}
      aria-label={`What the mark at ${b.into} is called`}
      value={typed}
      maxLength={200}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") keep();
        if (e.key === "Escape") setTyped(undefined);
      }}
    />
  );
}

/** Recording is how a link into a recording is made. */
function Recording() {
  const rooms = useSection("rooms");
  const bookmark = (rooms.value?.bookmark ?? {}) as { recording?: string };
  return (
    <div className="mt-3 border-t border-line pt-3">
      <h3 className="m-0 text-[14px]">Links into the recording</h3>
      <p className="sub mt-0">
        {"With {recording}, its address, and {seconds} into it, or {hours}, {minutes} and {rest}. Empty is the recording itself, where a platform keeps one."}
      </p>
      <Field
        size="s"
        aria-label="Links into the recording"
        placeholder="{recording}?at={seconds}"
        value={bookmark.recording ?? ""}
        maxLength={400}
        onChange={(e) => rooms.set({ ...rooms.value, bookmark: { ...bookmark, recording: e.target.value || undefined } })}
        onBlur={() => void rooms.save()}
      />
      {rooms.fault && <Fault role="alert">{rooms.fault.words}</Fault>}
      <Kept on={rooms.saved} />
    </div>
  );
}

/** Keys are the addresses that set bookmarks from outside: for a button that posts, or for what can only open an address. */
function Keys() {
  const q = useQuery(bookmarks);
  const deed = useDeed();
  const [name, setName] = useState("");
  const [how, setHow] = useState<"posted" | "opened">("posted");
  const [made, setMade] = useState("");
  const make = () =>
    deed(api.POST("/api/bookmarks/keys", { body: { name, how } }), {
      stale: [about.bookmarks],
      then: (m) => {
        setMade(m.address);
        setName("");
      },
    });
  return (
    <Panel label="Keys">
      <Head>Keys from outside</Head>
      <Scroll label="Keys" className="px-4 pb-3">
        <p className="sub mt-0">A button on the desk, or anything else that can post to an address or open one, marks this moment. One key marks once in five seconds.</p>
        {q.data?.keys.map((k) => (
          <div key={`${k.how} ${k.name}`} className="flex items-center gap-2 py-1">
            <span className="flex-1">
              <bdi>{k.name}</bdi> <span className="sub">{k.how === "posted" ? "posts to its address" : "opens its address"}</span>
            </span>
            <Out
              label={`Take away the key of ${k.name}`}
              onClick={() => void deed(api.POST("/api/bookmarks/keys/take", { body: { name: k.name, how: k.how } }), { stale: [about.bookmarks] })}
            />
          </div>
        ))}
        <form
          className="flex flex-wrap gap-2 pt-2"
          onSubmit={(e) => {
            e.preventDefault();
            void make();
          }}
        >
          <Field size="s" className="w-40" aria-label="What the key is for" placeholder="the red button" maxLength={60} value={name} onChange={(e) => setName(e.target.value)} />
          <Select size="s" aria-label="How it marks" value={how} onChange={(e) => setHow(e.target.value as typeof how)}>
            <option value="posted">posts to its address</option>
            <option value="opened">opens its address</option>
          </Select>
          <Button size="s" type="submit" disabled={!name.trim()}>
            Make a key
          </Button>
        </form>
        {made && (
          <div className="pt-2" role="status">
            <p className="sub m-0">Its address, shown this once:</p>
            <code className="block rounded-lg border border-line bg-ground px-2 py-1 text-[12.5px] [overflow-wrap:anywhere]">{made}</code>
          </div>
        )}
        <Recording />
      </Scroll>
    </Panel>
  );
}
