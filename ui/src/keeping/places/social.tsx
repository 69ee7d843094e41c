import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, profilesOf } from "../../api/client";
import { useDeed } from "../../api/deeds";
import { about, house, signIns } from "../../api/queries";
import { Button } from "../../kit/Button";
import { Area, Tick } from "../../kit/Field";
import { One } from "../../kit/One";
import { Line } from "../Line";
import { SignIn } from "../SignIn";
import type { Form, PlaceKind } from "./kind";

/** What an account may do besides posting, each switched on by itself. */
const further: ["message" | "picture" | "banner", string][] = [
  ["message", "send messages to one person"],
  ["picture", "change the account's picture"],
  ["banner", "change its banner"],
];

function Fields({ place, set, fault, made }: Form) {
  const sites = profilesOf(useQuery(house).data).filter((p) => p.profile.social);
  const signed = useQuery(signIns).data?.platforms.find((p) => p.platform === place.platform)?.accounts ?? [];
  const site = sites.find((p) => p.platform === place.platform)?.profile.social;
  const allows = place.allows ?? [];
  return (
    <>
      <Line label="Social site" fault={fault("platform")} hint={sites.length ? undefined : "The house knows of none. Bring its profile in under Platforms."}>
        {() => (
          <One label="Social site" value={place.platform ?? ""} list={sites.map((p): [string, string] => [p.platform, p.title])} onPick={(platform) => set({ platform }, true)} />
        )}
      </Line>
      {place.platform && !signed.length && <SignIn platform={place.platform} />}
      {signed.length > 0 && <Line label="Account">{() => <span className="block pt-2">{signed.map((a) => a.login).join(", ")} is signed in.</span>}</Line>}
      {site && (
        <Line label="It may also" fault={fault("allows")}>
          {() => (
            <div className="grid gap-1 pt-2">
              {further
                .filter(([what]) => site[what])
                .map(([what, words]) => (
                  <Tick key={what} on={allows.includes(what)} onChange={(on) => set({ allows: on ? [...allows, what] : allows.filter((a) => a !== what) }, true)}>
                    {words}
                  </Tick>
                ))}
            </div>
          )}
        </Line>
      )}
      {made && signed.length > 0 && <PostNow place={place.name!} limit={site?.limit} />}
    </>
  );
}

/** PostNow posts something as a member. */
function PostNow({ place, limit }: { place: string; limit?: number }) {
  const deed = useDeed();
  const [text, setText] = useState("");
  const over = limit ? [...text].length - limit : 0;
  return (
    <Line label="Post something" fault={over > 0 ? `It is ${over} letters too long.` : undefined}>
      {(id) => (
        <>
          <Area id={id} rows={2} value={text} maxLength={4000} onChange={(e) => setText(e.target.value)} />
          <Button
            size="s"
            className="mt-1"
            type="button"
            disabled={!text.trim() || over > 0}
            onClick={() =>
              void deed(api.POST("/api/places/{place}/posts", { params: { path: { place } }, body: { text } }), {
                stale: [about.places],
                say: "It is on its way.",
                then: () => setText(""),
              })
            }
          >
            Post it
          </Button>
        </>
      )}
    </Line>
  );
}

export const kind: PlaceKind = {
  name: "social",
  words: "an account at a social site",
  order: 6,
  fresh: { url: "" },
  missing: (p) => (p.platform ? undefined : "Choose the site."),
  Fields,
};
