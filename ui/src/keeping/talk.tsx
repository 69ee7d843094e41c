import { Field, Tick } from "../kit/Field";
import { Line } from "./Line";
import type { Form, PlaceKind } from "./places/kind";

/** What is asked of a room of a chat network. */
type Asks = { open: string; room: [label: string, looks: string]; account: [label: string, looks: string]; server: string };

/** talkFields are the fields of a room: its server, the room, and who the house is there. */
export const talkFields = ({ open, room, account, server }: Asks) =>
  function Fields({ place, set, save, fault }: Form) {
    const encrypted = !place.url?.startsWith(`${open}://`);
    const host = place.url?.replace(/^\w+:\/\//, "") ?? "";
    const to = (host: string, encrypted: boolean) => (host || !encrypted ? `${open}${encrypted ? "s" : ""}://${host}` : "");
    return (
      <>
        <Line label="Server" fault={fault("url")} hint="Its name, and a port where it is not the usual one.">
          {(id) => <Field id={id} value={host} maxLength={200} placeholder={server} onChange={(e) => set({ url: to(e.target.value.trim(), encrypted) })} onBlur={save} />}
        </Line>
        <Line label="The line there">
          {() => (
            <Tick className="pt-2" on={encrypted} onChange={(v) => set({ url: to(host, v) }, true)}>
              is encrypted
            </Tick>
          )}
        </Line>
        <Line label={room[0]} fault={fault("room")}>
          {(id) => <Field id={id} value={place.room ?? ""} maxLength={300} placeholder={room[1]} onChange={(e) => set({ room: e.target.value.trim() })} onBlur={save} />}
        </Line>
        <Line label={account[0]} fault={fault("account")}>
          {(id) => <Field id={id} value={place.account ?? ""} maxLength={300} placeholder={account[1]} onChange={(e) => set({ account: e.target.value.trim() })} onBlur={save} />}
        </Line>
      </>
    );
  };

/** talkMissing is what a room still needs. */
export const talkMissing: PlaceKind["missing"] = (p) =>
  !p.url || p.url.endsWith("://") ? "Say which server it is on." : !p.room ? "Say which room it is." : !p.account ? "Say who the house is there." : undefined;
