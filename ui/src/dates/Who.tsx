import type { ReactNode } from "react";
import { Link } from "react-router";
import type { DateEntry } from "../api/client";
import { DateShape } from "../kit/drawings/DateShape";
import { initials, Lantern, shapeOf } from "../kit/drawings/Lantern";
import { kinds, says } from "./dates";

/** Who is somebody with a day of theirs. */
export function Who({ e, children }: { e: DateEntry; children?: ReactNode }) {
  return (
    <>
      <Lantern lit={!!e.since} initials={initials(e.name)} shape={shapeOf(e.standing, undefined, e.fellow)} size={30} />
      <div className="min-w-0">
        <div className="flex min-w-0 items-baseline gap-2">
          <Link to={`/book?person=${e.person}`} className="truncate font-display text-[14px] font-[650] text-text">
            <bdi>{e.name}</bdi>
          </Link>
          {children}
        </div>
        <div className="flex items-center gap-1.5 text-[13px] leading-tight">
          <DateShape kind={kinds[e.kind].shape} />
          <span className="truncate">
            {says(e, e.days > 0)}
            {e.hidden && <span className="sub"> · hidden: only members see it</span>}
          </span>
        </div>
      </div>
    </>
  );
}
