import type { ReactNode } from "react";

/** Row is a part of a rule: what it is, how it is set, and a word beside it. */
export function Row({ label, hint, children }: { label: string; hint?: string; children: ReactNode }) {
  return (
    <div className="row">
      <span>{label}</span>
      <div className="min-w-0">
        {children}
        {hint && <p className="sub m-0 pt-1">{hint}</p>}
      </div>
    </div>
  );
}
