import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { pointsOf } from "../api/queries";
import { Quiet } from "../kit/Button";
import { useCalendar } from "../kit/time";
import { Fact } from "./Fact";

/** Purse is what somebody has of the channel's points, and where it came from and went; nothing where nobody gathers any. */
export function Purse({ person }: { person: number }) {
  const { data } = useQuery(pointsOf(person));
  const calendar = useCalendar();
  const [open, setOpen] = useState(false);
  if (!data || data.lines.length === 0) return null;
  return (
    <Fact name="Has">
      {data.says}
      {data.level > 0 && `, ${data.levelName || `level ${data.level}`}`}
      {data.gathered !== data.has && <span className="sub"> · gathered {data.gathered.toLocaleString("en")}</span>}
      <Quiet className="ml-1" aria-expanded={open} onClick={() => setOpen(!open)}>
        from what?
      </Quiet>
      {open && (
        <ol className="m-0 list-none p-0" aria-label="What came and went">
          {data.lines.map((l) => (
            <li key={l.seq} className="sub flex gap-2">
              <span className="w-14 flex-none text-right tabular-nums">
                {l.amount > 0 ? "+" : "−"}
                {Math.abs(l.amount).toLocaleString("en")}
              </span>
              <bdi className="min-w-0 flex-1">{l.why}</bdi>
              <span className="flex-none">{calendar.dated(l.at)}</span>
            </li>
          ))}
        </ol>
      )}
    </Fact>
  );
}
