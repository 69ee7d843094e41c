import type { ComponentProps, ReactNode } from "react";
import { tv } from "tailwind-variants";

const look = tv({ base: "panel relative flex min-h-0 min-w-0 flex-col overflow-hidden rounded-panel bg-surface" });

/** Panel is a board of the page, known by its name. */
export function Panel({ label, className, ...rest }: ComponentProps<"section"> & { label: string }) {
  return <section aria-label={label} className={look({ className })} {...rest} />;
}

/** Head is a board's heading: its name, a count beside it, and what stands at its end. */
export function Head({ children, count, className, end }: { children: ReactNode; count?: ReactNode; className?: string; end?: ReactNode }) {
  return (
    <div className={headLook({ className })}>
      <h2 className="m-0 text-[15px] font-[650] tracking-[-0.005em]">{children}</h2>
      {count !== undefined && <span className="text-[13px] text-text-3">{count}</span>}
      {end !== undefined && <span className="ml-auto">{end}</span>}
    </div>
  );
}

const headLook = tv({ base: "flex flex-none items-baseline gap-2 px-4 pt-3 pb-2" });

/** Scroll is what scrolls within a board, down or across: it takes the focus, so that keys scroll it, and has a name. */
export function Scroll({ label, across, className, ...rest }: ComponentProps<"div"> & { label: string; across?: boolean }) {
  // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- what scrolls must be reached by keys (WCAG 2.1.1)
  return <div role="group" aria-label={label} tabIndex={0} className={scrollLook({ across, className })} {...rest} />;
}

const scrollLook = tv({ base: "", variants: { across: { true: "overflow-x-auto", false: "scroll" } }, defaultVariants: { across: false } });

/** Empty says what to do first where nothing is yet. */
export function Empty({ children, className, ...rest }: ComponentProps<"p">) {
  return (
    <p className={emptyLook({ className })} {...rest}>
      {children}
    </p>
  );
}

const emptyLook = tv({ base: "empty" });
