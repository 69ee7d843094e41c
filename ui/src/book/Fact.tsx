import type { ReactNode } from "react";

/** Fact is one thing that is known of somebody, with its name. */
export function Fact({ name, className, children }: { name: string; className?: string; children: ReactNode }) {
  return (
    <>
      <dt>{name}</dt>
      <dd className={className}>{children}</dd>
    </>
  );
}
