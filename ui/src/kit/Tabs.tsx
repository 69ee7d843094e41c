import { Tabs as Radix } from "radix-ui";
import type { MouseEvent, ReactNode } from "react";
import { buttonLook } from "./Button";

export type Tab<T extends string> = { value: T; label: ReactNode };

/** A tab that is pressed has the focus without the ring that shows it to whoever goes by keys. */
const byPointer = (e: MouseEvent<HTMLButtonElement>) => e.currentTarget.focus({ focusVisible: false } as FocusOptions);

/** key is a tab's value as part of an id, where a space would part two. */
const key = (value: string) => value.replaceAll(" ", "-");

/** Tabs is a row of names of which one is open; arrows go along them. What they open stands in TabPanel within. */
export function Tabs<T extends string>({
  label,
  tabs,
  value,
  onChange,
  className,
  size = "s",
  children,
}: {
  label: string;
  tabs: readonly Tab<T>[];
  value: T;
  onChange: (v: T) => void;
  className?: string;
  size?: "m" | "s";
  children?: ReactNode;
}) {
  return (
    <Radix.Root className="contents" value={key(value)} onValueChange={(v) => onChange(tabs.find((t) => key(t.value) === v)!.value)}>
      <Radix.List className={className} aria-label={label}>
        {tabs.map((t) => (
          <Radix.Trigger key={t.value} value={key(t.value)} onMouseDown={byPointer} className={buttonLook({ size, on: t.value === value })}>
            {t.label}
          </Radix.Trigger>
        ))}
      </Radix.List>
      {children}
    </Radix.Root>
  );
}

/** TabPanel is what one tab opens. One that is kept stays on the page while another is open. */
export function TabPanel({ value, className, kept, children }: { value: string; className?: string; kept?: boolean; children: ReactNode }) {
  return (
    <Radix.Content value={key(value)} className={className} forceMount={kept || undefined} tabIndex={kept ? -1 : 0}>
      {children}
    </Radix.Content>
  );
}
