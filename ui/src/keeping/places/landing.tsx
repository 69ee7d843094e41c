import { useQuery } from "@tanstack/react-query";
import { profilesOf } from "../../api/client";
import { house, landings } from "../../api/queries";
import { One } from "../../kit/One";
import { Line } from "../Line";
import { SignIn } from "../SignIn";
import type { Form, PlaceKind } from "./kind";

function Fields({ place, set, fault }: Form) {
  const servers = profilesOf(useQuery(house).data).filter((p) => p.profile.community);
  const there = useQuery(landings(place.platform ?? ""));
  const list = there.data?.landings ?? [];
  const named = (id: string) => list.find((l) => l.id === id)?.title ?? id;
  const pick = (landing: string) => set({ landing }, true);
  return (
    <>
      <Line label="Community server" fault={fault("platform")} hint={servers.length ? undefined : "The house knows of none. Bring its profile in under Platforms."}>
        {() => (
          <One
            label="Community server"
            value={place.platform ?? ""}
            list={servers.map((p): [string, string] => [p.platform, p.title])}
            onPick={(platform) => set({ platform, landing: "" })}
          />
        )}
      </Line>
      {place.platform && there.data && !list.length && (
        <>
          <p className="m-0 py-1" role="status">
            {there.data.why || "It tells of no landing."}
          </p>
          <SignIn platform={place.platform} />
        </>
      )}
      {list.length > 0 && (
        <Line label="Landing" fault={fault("landing")}>
          {() => (
            <ul className="m-0 grid list-none gap-1 p-0" aria-label="Landings">
              {list.map((l) => (
                <li key={l.id}>
                  <label className="flex flex-wrap items-baseline gap-x-2 rounded-lg border border-line px-3 py-1.5">
                    <input type="radio" name="landing" checked={place.landing === l.id} onChange={() => pick(l.id)} />
                    <b>
                      <bdi>{l.title}</bdi>
                    </b>
                    <span className="sub">{l.may.length ? `the house ${l.may.join(", ")}` : "the house may do nothing here"}</span>
                    {l.mayNot.length > 0 && l.may.length > 0 && <span className="sub">· not: {l.mayNot.map((r) => r.replace(/^may /, "")).join(", ")}</span>}
                  </label>
                </li>
              ))}
            </ul>
          )}
        </Line>
      )}
      {!list.length && place.landing && (
        <Line label="Landing" fault={fault("landing")}>
          {() => <span className="block pt-2">{named(place.landing!)}</span>}
        </Line>
      )}
    </>
  );
}

export const kind: PlaceKind = {
  name: "landing",
  words: "a landing of a community server",
  order: 0,
  fresh: { url: "" },
  missing: (p) => (!p.platform ? "Choose the community server." : !p.landing ? "Choose a landing; the list is there once the house is signed in." : undefined),
  Fields,
};
