import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useAgain } from "../api/deeds";
import { about, rehearsals } from "../api/queries";

/** KeptEvenings says how the kept evenings go under the settings in force; they are lived again after each change. */
export function KeptEvenings({ version, quiet }: { version?: number; quiet?: boolean }) {
  const q = useQuery(rehearsals);
  const again = useAgain();
  useEffect(() => {
    if (version) void again(about.rehearsal); // another version is in force
  }, [version, again]);
  if (!q.data) return null;
  const { kept, well, running } = q.data.kept;
  if (kept === 0) return quiet ? null : <span className="sub">No evening is kept. Keep one, and each change of the settings is held against it.</span>;
  return (
    <span className="flex items-center gap-2.5 text-[13px]" role="status">
      <span className={running ? "dot none" : well === kept ? "dot" : "dot bad"} />
      {running
        ? "The kept evenings are being lived…"
        : well === kept
          ? kept === 1
            ? "1 kept evening goes as it should"
            : `${kept} kept evenings go as they should`
          : `${kept - well} of ${kept} kept evenings ${kept - well === 1 ? "goes" : "go"} otherwise`}
    </span>
  );
}
