import { useQuery } from "@tanstack/react-query";
import { courtesies } from "../api/queries";
import { Kept, Line } from "../keeping/Line";
import { Never } from "../keeping/Never";
import { useSection } from "../keeping/useSection";
import { Fault, Num } from "../kit/Field";
import { One } from "../kit/One";
import { Part } from "./Part";

/** Standings say who is a regular and who was long away, who is never greeted, and when a 29 February is kept. */
export function Standings() {
  const standings = useSection("standings");
  const leap = useSection("leapDay");
  const never = useQuery(courtesies);
  const r = standings.value ?? { regularAttended: 6, regularOf: 10, awayVisits: 3, awayDays: 30 };
  const dial = (k: keyof typeof r, label: string) => <Num onBlur={() => void standings.save()} label={label} value={r[k]} onChange={(n) => standings.set({ ...r, [k]: n ?? 0 })} />;
  return (
    <Part
      label="Standings"
      title={
        <>
          How people <u>stand</u>.
        </>
      }
    >
      <div className="flex flex-wrap items-center gap-2 py-1.5">
        A regular came to at least {dial("regularAttended", "Streams attended")} of the last {dial("regularOf", "Of the last streams")} streams.
      </div>
      <div className="flex flex-wrap items-center gap-2 py-1.5">
        Long away is who came to at least {dial("awayVisits", "Visits")} streams and was not seen for {dial("awayDays", "Days")} days.
      </div>
      {standings.fault && <Fault role="alert">{standings.fault.words}</Fault>}
      <Kept on={standings.saved} />
      <Line label="29 February" hint="When it is kept in other years." fault={leap.fault?.words}>
        {() => (
          <One
            label="29 February"
            value={leap.value ?? "28 February"}
            list={[
              ["28 February", "on 28 February"],
              ["1 March", "on 1 March"],
            ]}
            onPick={(v) => void leap.put(v as "1 March")}
          />
        )}
      </Line>
      {never.data && <Never list={never.data.never} version={never.data.version} />}
    </Part>
  );
}
