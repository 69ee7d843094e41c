import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useDeed } from "../../api/deeds";
import { about, guard } from "../../api/queries";
import { Line } from "../../keeping/Line";
import { useSection } from "../../keeping/useSection";
import { Button } from "../../kit/Button";
import { Area, Fault, Num, Tick } from "../../kit/Field";
import { Empty, Head, Panel, Scroll } from "../../kit/Panel";
import { fully, useZone } from "../../kit/time";
import { titled } from "../../kit/words";
import type { Rule } from "./measures";

const modes = ["slow chat", "emote-only chat", "subscribers-only chat"];
const did: Record<string, string> = { warn: "was told", hold: "held", remove: "taken out", "time-out": "sent out for a while", ban: "banned" };

/** Guard is what the guard did, what can be taken back, and what all rules have in common. */
export function Guard({ onOpen }: { onOpen: (id: string) => void }) {
  const s = useSection("guard");
  const page = useQuery(guard).data;
  const deed = useDeed();
  const zone = useZone();
  const v = s.value ?? {};
  const set = (part: Partial<typeof v>) => s.set({ ...v, ...part });
  const put = (part: Partial<typeof v>) => void s.put({ ...v, ...part });
  const minutes = (of: "heldMinutes" | "permitMinutes" | "floodMinutes", usual: number, label: string, hint: string) => (
    <Line label={label} hint={hint}>
      {() => (
        <span className="flex items-center gap-2 pt-1">
          <Num label={`${label}, in minutes`} value={v[of] || usual} onChange={(n) => set({ [of]: n })} onBlur={() => void s.save()} /> minutes
        </span>
      )}
    </Line>
  );
  const permit = (account: string, name: string) =>
    void deed(api.POST("/api/desk/permit", { body: { account, on: true } }), { say: `${name} is permitted for a while.`, stale: [about.guard] });
  return (
    <>
      <Panel label="How the guard stands">
        <Scroll className="ed" label="How the guard stands">
          <p className="sent">
            How the <b>guard</b> stands.
          </p>
          {page?.worth.map((w) => (
            <p key={w.kind} className="m-0 flex flex-wrap items-center gap-2 py-1">
              <span>
                Moderators took {w.of} lines out of the last streams; a rule about <b>{w.title.toLowerCase()}</b> would have found {w.found} of them.
              </span>
              {!page.rules.some((r) => r.kind === w.kind) && (
                <Button
                  size="s"
                  onClick={() => {
                    const start = page.kinds.find((k) => k.kind === w.kind)!.start as unknown as Rule;
                    const id = start.id.replaceAll(" ", "-");
                    void s.put({ ...v, rules: [...(v.rules ?? []), { ...start, id }] }).then((ok) => ok && onOpen(id));
                  }}
                >
                  Make it, and try it
                </Button>
              )}
            </p>
          ))}
          {minutes("heldMinutes", 10, "A held line waits", "Undecided after that it stands, and nothing comes of it.")}
          {minutes("permitMinutes", 5, "Somebody is permitted for", "By hand, for what would be stopped: a link, say.")}
          {minutes("floodMinutes", 15, "The key against a flood holds", "Newcomers' lines are held, general greetings rest and follows gather. It undoes itself.")}
          <Line label="The key brings" hint="On each platform that has it; none chosen is slow chat.">
            {() => (
              <span className="flex flex-wrap gap-x-4 gap-y-1 pt-1.5">
                {modes.map((m) => (
                  <Tick key={m} on={!!v.modes?.includes(m)} onChange={(on) => put({ modes: [...(v.modes ?? []).filter((x) => x !== m), ...(on ? [m] : [])] })}>
                    {m}
                  </Tick>
                ))}
              </span>
            )}
          </Line>
          <Line label="How somebody is told" hint="One wording a line, with {name} and {what}; in private where the platform carries that. None is the house's own.">
            {(id) => (
              <Area
                id={id}
                rows={3}
                defaultValue={(v.warnings ?? []).join("\n")}
                onBlur={(e) => put({ warnings: e.target.value.split("\n").map((x) => x.trim()).filter(Boolean) })} // prettier-ignore
              />
            )}
          </Line>
          {s.fault && <Fault role="alert">{s.fault.words}</Fault>}
        </Scroll>
      </Panel>
      <Panel label="What the guard did">
        <Head count={page?.did.length}>What it did</Head>
        <Scroll className="px-4" label="What the guard did, the newest first">
          {page?.did.length === 0 && <Empty className="px-0">Nothing yet. All rules are off until somebody switches one on; each is tried on the past first.</Empty>}
          {page?.did.map((d) => (
            <div key={d.seq} className="border-t border-line py-1.5">
              <div className="flex items-baseline gap-2">
                <b className="min-w-0">
                  <bdi>{d.name || "somebody who is forgotten"}</bdi>
                </b>
                <span className="sub flex-1">
                  {did[d.act] ?? d.act}
                  {d.seconds ? ` (${d.seconds} s)` : ""} · {fully(d.at, zone)} · {titled(d.platform)}
                </span>
                {d.undo && (
                  <Button size="s" onClick={() => void deed(api.POST("/api/desk/undo", { body: { line: d.undo! } }), { stale: [about.guard], say: "It is lifted." })}>
                    Lift it
                  </Button>
                )}
                {d.name && (
                  <Button size="s" look="ghost" aria-label={`Permit ${d.name}`} onClick={() => permit(d.account, d.name)}>
                    Permit
                  </Button>
                )}
              </div>
              {d.text && (
                <div className="[overflow-wrap:anywhere]">
                  <bdi>{d.text}</bdi>
                </div>
              )}
              <div className="sub">
                {d.found}
                {d.ended && ` · ${d.ended}`}
              </div>
            </div>
          ))}
        </Scroll>
      </Panel>
    </>
  );
}
