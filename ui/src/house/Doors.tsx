import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, Route, Routes, useNavigate } from "react-router";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { about, house, session } from "../api/queries";
import { ChatForm } from "../keeping/ChatForm";
import { HappeningsForm } from "../keeping/HappeningsForm";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { useHouseNow } from "../kit/time";
import { DoorPage } from "./DoorPage";
import { kindOf, stateOf } from "./doorWords";
import { Part } from "./Part";
import { ServiceForm } from "./Service";
import { Named } from "./Thing";

export function Doors() {
  return (
    <Routes>
      <Route index element={<List />} />
      <Route path=":name" element={<DoorPage />} />
    </Routes>
  );
}

function List() {
  const { value: doors = [], version } = useSection("doors");
  const live = useLive((s) => s.doors);
  const now = useHouseNow(5000);
  const go = useNavigate();
  const [adding, setAdding] = useState<"chat" | "happenings" | "service">();
  const held = useQuery(house).data?.held;
  return (
    <Part
      label="Doors"
      title={
        <>
          Where things <u>come in</u>.
        </>
      }
    >
      {held && <Held />}
      {doors.map((d) => {
        const [well, words] = stateOf(
          live?.find((x) => x.door === d.name),
          now,
        );
        return (
          <div key={d.name} className="thing">
            <div>
              <Link to={`/house/doors/${d.name}`} className="font-semibold text-lagoon">
                {d.name}
              </Link>{" "}
              <span className="sub">{kindOf(d)}</span>
              <div className="sub flex items-center gap-2 pl-0.5">
                <span className={well ? "dot" : "dot bad"} aria-hidden /> {words}
              </div>
            </div>
            <Named section="doors" name={d.name} title={d.name} />
          </div>
        );
      })}
      {version > 0 && doors.length === 0 && <p className="sub">There are no doors yet: the house hears nothing.</p>}
      <div className="my-3 flex gap-2">
        <Button on={adding === "chat"} onClick={() => setAdding("chat")}>
          Connect a chat
        </Button>
        <Button on={adding === "happenings"} onClick={() => setAdding("happenings")}>
          A door for happenings
        </Button>
        <Button on={adding === "service"} onClick={() => setAdding("service")}>
          Another service
        </Button>
      </div>
      {adding === "chat" && <ChatForm asYou onMade={(n) => void go(`/house/doors/${n}`)} />}
      {adding === "happenings" && <HappeningsForm onMade={(n) => void go(`/house/doors/${n}`)} />}
      {adding === "service" && <ServiceForm onMade={(n) => void go(`/house/doors/${n}`)} />}
      <Hosts />
    </Part>
  );
}

/** Held says that the house holds still after a restore, and lets the owner go on. */
export function Held() {
  const owner = useQuery(session).data?.role === "owner";
  const deed = useDeed();
  return (
    <p className="m-0 flex flex-wrap items-center gap-3 rounded-lg border border-marigold px-3 py-2" role="status">
      The house was brought back from a backup and holds still: its doors are shut, nothing is posted.
      {owner ? (
        <Button look="lit" onClick={() => void deed(api.POST("/api/house/go"), { stale: [about.house], say: "The doors open." })}>
          Go on
        </Button>
      ) : (
        <span className="sub">The owner says when it goes on.</span>
      )}
    </p>
  );
}

/** Hosts are those of this machine and of private networks that the house may reach. */
function Hosts() {
  const q = useQuery(house);
  const owner = useQuery(session).data?.role === "owner";
  const deed = useDeed();
  const [host, setHost] = useState("");
  const [fault, setFault] = useState("");
  const list = q.data?.hosts ?? [];
  const put = (h: string, allow: boolean) =>
    void deed(api.PUT("/api/house/hosts", { body: { host: h, allow } }), { stale: [about.house], then: () => (setHost(""), setFault("")), fault: setFault });
  return (
    <>
      <h2 className="mt-6 mb-1 text-lg">Hosts of your own network</h2>
      <p className="sub m-0 mb-2">The house reaches what is on the open network. What is on this machine or behind your router, a lamp say, is reached only when it stands here.</p>
      <ul className="m-0 flex list-none flex-wrap gap-2 p-0">
        {list.map((h) => (
          <li key={h} className="flex items-center gap-1 rounded-md border border-line px-2 py-0.5">
            {h}
            {owner && (
              <Button size="s" look="ghost" aria-label={`Reach ${h} no more`} onClick={() => put(h, false)}>
                ×
              </Button>
            )}
          </li>
        ))}
      </ul>
      {owner && (
        <form
          className="mt-2 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            put(host, true);
          }}
        >
          <Field size="s" className="w-56" aria-label="A host the house may reach" placeholder="lamp.local" value={host} onChange={(e) => setHost(e.target.value)} />
          <Button size="s" disabled={!host.trim()}>
            Let it be reached
          </Button>
        </form>
      )}
      {fault && <Fault role="alert">{fault}</Fault>}
    </>
  );
}
