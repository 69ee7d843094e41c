import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { said } from "../../api/client";
import { useAgain } from "../../api/deeds";
import { about, guard, triedRule } from "../../api/queries";
import { useSection } from "../../keeping/useSection";
import { Button } from "../../kit/Button";
import { Fault, Num, Tick } from "../../kit/Field";
import { Head, Panel, Scroll } from "../../kit/Panel";
import { fully, useZone } from "../../kit/time";
import { titled } from "../../kit/words";
import { Measures, type Rule } from "./measures";
import { Row } from "./Row";
import { Steps } from "./Steps";

const tryAfter = 120; // ms of quiet until a measure that is dragged is tried

/** RuleForm is one rule, beside what it would have touched in the last streams. */
export function RuleForm({ id, onGone }: { id: string; onGone: () => void }) {
  const s = useSection("guard");
  const page = useQuery(guard).data;
  const again = useAgain();
  const list = s.value?.rules ?? [];
  const at = list.findIndex((r) => r.id === id);
  const r = list[at];
  if (!r) return <Panel className="col-span-2" label="No such rule" />;
  const with_ = (part: Partial<Rule>) => ({ ...s.value, rules: list.map((x, i) => (i === at ? ({ ...x, ...part } as Rule) : x)) });
  const change = (part: Partial<Rule>) => s.set(with_(part));
  const told = () => again(about.guard); // what it looks for, in words
  const put = (part: Partial<Rule>) => void s.put(with_(part)).then(told);
  const keep = () => void s.save().then(told);
  const kind = page?.kinds.find((k) => k.kind === r.kind);
  const spares = (who: "VIPs" | "regulars", on: boolean) => put({ not: [...(r.not ?? []).filter((x) => x !== who), ...(on ? [who] : [])] });
  const fault = s.fault?.at.startsWith(`guard.rules.${at}`) ? s.fault : undefined;
  return (
    <>
      <Panel label="The rule">
        <Scroll className="ed" label="The rule">
          <Button size="s" look="ghost" className="float-right" onClick={() => void s.put({ ...s.value, rules: list.filter((_, i) => i !== at) }).then((ok) => ok && onGone())}>
            Take it away
          </Button>
          <p className="sent">
            When there is trouble, look for <b>{page?.rules.find((x) => x.id === id)?.says ?? r.kind}</b>.
          </p>
          <Tick className="sub" on={!!r.on} onChange={(on) => put({ on: on || undefined })}>
            it is on
          </Tick>
          <Measures r={r} change={change} keep={keep} />
          <Row label="Then">
            <Steps r={r} put={(then) => put({ then })} />
          </Row>
          <Row label="Again">
            <span className="flex items-center gap-2">
              is within <Num label="Days within which it is again" value={r.days ?? 30} onChange={(days) => change({ days })} onBlur={keep} /> days
            </span>
          </Row>
          <Row label="Never" hint="The streamer, moderators, co-hosts, whoever is trusted by hand or permitted for a while, and neighbours are never looked at.">
            <span className="flex flex-wrap gap-x-4 gap-y-1">
              <Tick on={!!r.not?.includes("VIPs")} onChange={(on) => spares("VIPs", on)}>
                VIPs
              </Tick>
              {kind?.all ? (
                <span className="sub">regulars are looked at: a computed regular is not trusted with links</span>
              ) : (
                <Tick on={!!r.not?.includes("regulars")} onChange={(on) => spares("regulars", on)}>
                  regulars
                </Tick>
              )}
            </span>
          </Row>
          {fault && (
            <Fault role="alert">
              {fault.words} <span className="muted">({fault.at.split(".").slice(3).join(".")})</span>
            </Fault>
          )}
        </Scroll>
      </Panel>
      <OnThePast r={r} />
    </>
  );
}

/** OnThePast is what a rule would have touched; it follows as a measure is dragged. */
function OnThePast({ r }: { r: Rule }) {
  const [settled, settle] = useState(r);
  const now = JSON.stringify(r);
  useEffect(() => {
    const t = setTimeout(() => settle(JSON.parse(now) as Rule), tryAfter);
    return () => clearTimeout(t);
  }, [now]);
  const q = useQuery(triedRule(settled as unknown as Record<string, unknown>));
  const zone = useZone();
  const t = q.data;
  const of = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`);
  return (
    <Panel label="Tried on the past">
      <Head end={<span className="sub">nothing is done</span>}>Tried on the past</Head>
      {q.error && <Fault className="px-4">{said(q.error)}</Fault>}
      {t && (
        <p className="m-0 px-4 pb-2" role="status" data-testid="touched">
          {t.streams === 0 && t.looked === 0 ? (
            "Nothing was said yet that is kept."
          ) : (
            <>
              In the last {of(t.streams, "stream", "streams")} this would have touched <b>{of(t.lines, "line", "lines")}</b> of <b>{of(t.people, "person", "people")}</b>
              {t.regulars > 0 && <span className="text-persimmon">, {of(t.regulars, "regular", "regulars")} among them</span>}.
            </>
          )}
        </p>
      )}
      <Scroll className="px-4" label="Lines that it would have touched">
        {t?.some.map((x, i) => (
          <div key={i} className="border-t border-line py-1.5">
            <b>
              <bdi>{x.name}</bdi>
            </b>{" "}
            <span className="sub">
              {fully(x.at, zone)} · {titled(x.platform)}
              {x.regular && " · a regular"}
              {x.removed && " · a moderator took it out"}
            </span>
            <div className="[overflow-wrap:anywhere]">
              <bdi>{x.text}</bdi>
            </div>
            <div className="sub">{x.found}</div>
          </div>
        ))}
        {t && t.lines > t.some.length && <p className="sub">and {t.lines - t.some.length} more</p>}
      </Scroll>
    </Panel>
  );
}
