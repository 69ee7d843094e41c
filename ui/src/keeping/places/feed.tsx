import { useState } from "react";
import { api } from "../../api/client";
import { useDeed } from "../../api/deeds";
import { Button } from "../../kit/Button";
import { Line } from "../Line";
import type { Form, PlaceKind } from "./kind";

function Fields({ place, made }: Form) {
  const deed = useDeed();
  const [address, setAddress] = useState("");
  if (!made) return <p className="sub m-0">Whoever has its address can subscribe to what goes there, with any reader of feeds. The address is made once the place is there.</p>;
  return (
    <Line label="Its address" hint="Whoever has it can read the feed. Another one takes its place.">
      {() => (
        <div className="pt-1">
          <Button
            size="s"
            type="button"
            onClick={() => void deed(api.POST("/api/places/{place}/feed", { params: { path: { place: place.name! } } }), { then: (m) => setAddress(m.address) })}
          >
            Make its address
          </Button>
          {address && (
            <code className="mt-2 block rounded-lg border border-line bg-ground px-2 py-1 text-[12.5px] [overflow-wrap:anywhere]" role="status">
              {address}
            </code>
          )}
        </div>
      )}
    </Line>
  );
}

export const kind: PlaceKind = { name: "feed", words: "a feed to subscribe to", order: 4, fresh: { url: "" }, Fields };
