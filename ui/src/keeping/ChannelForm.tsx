import { useEffect } from "react";
import { Field } from "../kit/Field";
import { Picker } from "../kit/Picker";
import { Kept, Line } from "./Line";
import { useSection } from "./useSection";

/** unnamed is what a channel is called that nobody has named yet. */
export const unnamed = "new-house";

/** zones are all that this browser knows, its own first. */
const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
const zones = [here, "UTC", ...Intl.supportedValuesOf("timeZone").filter((z) => z !== here)].map((z) => ({
  value: z,
  label: z.replaceAll("_", " "),
  hint: z === here ? "this browser's" : undefined,
}));

/** ChannelForm says whose house it is: the channel, its time zone, and what the house is called. A house that nobody named takes the browser's zone. */
export function ChannelForm() {
  const channel = useSection("channel");
  const zone = useSection("zone");
  const name = useSection("name");
  const fresh = channel.value === unnamed;
  const now = zone.value;
  const put = zone.put;
  useEffect(() => {
    if (fresh && now === "UTC" && here !== "UTC") void put(here);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, when the house is seen to be new
  }, [fresh, now]);
  return (
    <>
      <Line label="The channel" hint="As it is called where you stream. Wordings say it where they hold the fill-in “channel”." fault={channel.fault?.words}>
        {(id) => (
          <Field
            id={id}
            value={fresh ? "" : (channel.value ?? "")}
            placeholder="my_channel"
            maxLength={60}
            onChange={(e) => channel.set(e.target.value.trim())}
            onBlur={() => void (channel.value && channel.value !== unnamed && channel.save())}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          />
        )}
      </Line>
      <Line label="Time zone" hint="Evenings, birthdays and the hours of courtesies go by it." fault={zone.fault?.words}>
        {() => (
          <Picker label="Time zone" choices={zones} value={now} onPick={(v) => void zone.put(v)}>
            {now?.replaceAll("_", " ") ?? "Time zone"} <span aria-hidden>▾</span>
          </Picker>
        )}
      </Line>
      <Line label="The house is called" hint="What members read; in chat it goes by its account. It may stay empty." fault={name.fault?.words}>
        {(id) => (
          <Field
            id={id}
            value={name.value ?? ""}
            placeholder="the house"
            maxLength={60}
            onChange={(e) => name.set(e.target.value || undefined)}
            onBlur={() => void name.save()}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          />
        )}
      </Line>
      <Kept on={channel.saved || zone.saved || name.saved} />
    </>
  );
}
