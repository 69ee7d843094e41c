import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { door as doorOf } from "../api/queries";
import { ChatProof } from "../keeping/ChatForm";
import { HappeningsProof } from "../keeping/HappeningsForm";
import { Line } from "../keeping/Line";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Fault, Field, Tick } from "../kit/Field";
import { useCalendar, useHouseNow } from "../kit/time";
import { titled } from "../kit/words";
import { isService, kindOf, stateOf, type Set } from "./doorWords";
import { Messages } from "./Messages";
import { Part } from "./Part";
import { ServiceProof, ServiceSet } from "./Service";
import { Named, Secret } from "./Thing";

/** DoorPage is one door: how it is, what it is set to, what came in, and what it cannot do. */
export function DoorPage() {
  const { name = "" } = useParams();
  const doors = useSection("doors");
  const page = useQuery(doorOf(name));
  const live = useLive((s) => s.doors)?.find((x) => x.door === name);
  const now = useHouseNow(2000);
  const calendar = useCalendar();
  const deed = useDeed();
  const go = useNavigate();
  const at = (doors.value ?? []).findIndex((x) => x.name === name);
  const d = doors.value?.[at];
  if (!d)
    return (
      <Part
        label="Door"
        title={
          <>
            There is no door <u>{name}</u>.
          </>
        }
      >
        <Link to="/house/doors">Back to the doors</Link>
      </Part>
    );
  const change = (next: Partial<Set>) => doors.set(doors.value!.map((x, i) => (i === at ? { ...x, ...next } : x)));
  const put = (next: Partial<Set>) => doors.put(doors.value!.map((x, i) => (i === at ? { ...x, ...next } : x)));
  const chat = d.kind === "irc";
  const [well, words] = stateOf(live, now);
  const field = (label: string, k: "address" | "room" | "account", hint?: string) => (
    <Line label={label} hint={hint} fault={doors.fault?.at.endsWith(`.${k}`) ? doors.fault.words : undefined}>
      {(id) => <Field id={id} value={d[k] ?? ""} maxLength={2000} onChange={(e) => change({ [k]: e.target.value || undefined })} onBlur={() => void doors.save()} />}
    </Line>
  );
  return (
    <Part
      label="Door"
      title={
        <>
          <u>{name}</u>: {kindOf(d)}.
        </>
      }
    >
      <div className="flex flex-wrap items-center gap-2">
        <span className={well ? "dot" : "dot bad"} aria-hidden /> <span className="mr-auto">{words}</span>
        {chat && (
          <Button
            size="s"
            onClick={() =>
              void deed(api.POST("/api/doors/{door}/check", { params: { path: { door: name } } }), {
                say: (c) => (c.ok ? `A line came back in ${c.millis} ms.` : (c.reason ?? "No answer.")),
              })
            }
          >
            Check
          </Button>
        )}
        {(chat || d.kind === "listen") && (
          <Button size="s" onClick={() => void deed(api.POST("/api/doors/{door}/again", { params: { path: { door: name } } }), { say: "It is opened anew." })}>
            Reconnect now
          </Button>
        )}
        <Button size="s" onClick={() => void put({ paused: d.paused ? undefined : true })}>
          {d.paused ? "Open it again" : "Pause"}
        </Button>
        <Named section="doors" name={name} title={name} onGone={(n) => void go(n ? `/house/doors/${n}` : "/house/doors", { replace: true })} />
      </div>
      {chat && <ChatProof door={name} />}
      {d.kind === "inbox" && <HappeningsProof door={name} />}
      {isService(d) && <ServiceProof door={name} live={live} />}
      {isService(d) && <Messages door={name} />}
      <h2 className="mt-4 mb-1 text-lg">What it is set to</h2>
      {isService(d) && <ServiceSet d={d} change={change} put={(next) => void put(next)} save={() => void doors.save()} fault={doors.fault} />}
      {chat && field("Address", "address", "Another address needs the password anew: it goes nowhere else.")}
      {chat && (
        <Line label="TLS">
          {() => (
            <Tick className="pt-2" on={!!d.tls} onChange={(tls) => void put({ tls: tls || undefined })}>
              the way there is encrypted
            </Tick>
          )}
        </Line>
      )}
      {chat && field("Room", "room")}
      {chat && field("Account", "account")}
      {chat && <Line label="Password">{() => <Secret name={name} slot="password" words="password" />}</Line>}
      {!isService(d) && (
        <Line label="Its platform">
          {() => (
            <Link to={`/house/platforms/${d.platform}`} className="inline-block pt-2 text-lagoon">
              what the house knows of {titled(d.platform)}
            </Link>
          )}
        </Line>
      )}
      {doors.fault && <Fault role="alert">{doors.fault.words}</Fault>}
      {!isService(d) && !!page.data?.cannot.length && (
        <>
          <h2 className="mt-4 mb-1 text-lg">What {titled(d.platform)} cannot do</h2>
          <ul className="m-0 pl-5">
            {[...new Set(page.data.cannot.map((x) => x.why))].map((why) => (
              <li key={why}>
                {page.data.cannot
                  .filter((x) => x.why === why)
                  .map((x) => x.what)
                  .join(", ")}{" "}
                <span className="sub">{why}</span>
              </li>
            ))}
          </ul>
        </>
      )}
      {!isService(d) && (
        <>
          <h2 className="mt-4 mb-1 text-lg">What came in lately</h2>
          {page.data?.came.length === 0 && <p className="sub">Nothing since the house was started.</p>}
          {page.data?.came.map((x, i) => (
            <details key={i} className="border-t border-line py-1.5">
              <summary className="cursor-pointer">
                <span className="sub">{calendar.fully(x.at)}</span> {x.understood ? x.understood.split(" · {")[0] : <span className="muted">nobody's business</span>}
              </summary>
              <p className="sub m-0 mt-1">as it came, secrets blanked</p>
              <p className="raw m-0">{x.raw}</p>
              {x.understood && (
                <>
                  <p className="sub m-0 mt-1">as it was understood</p>
                  <p className="raw m-0">{x.understood}</p>
                </>
              )}
            </details>
          ))}
        </>
      )}
    </Part>
  );
}
