import { RadioGroup as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { tv, type VariantProps } from "tailwind-variants";

const look = tv({
  base: "cursor-pointer",
  variants: {
    look: {
      card: "rounded-[9px] border border-line px-3 py-2 text-left data-[state=checked]:border-marigold data-[state=checked]:bg-surface-2",
      sign: "inline-grid h-8 w-8 place-items-center rounded-md text-[12.5px] text-text-2 hover:bg-surface-2 data-[state=checked]:bg-surface-2 data-[state=checked]:text-text data-[state=checked]:shadow-[inset_0_-2px_0_var(--color-marigold)]",
    },
  },
  defaultVariants: { look: "card" },
});

export type Option<T extends string> = { value: T; label: ReactNode; name?: string };

/** RadioGroup chooses one of a few that are all seen at once; arrows go along them. */
export function RadioGroup<T extends string>({
  label,
  options,
  value,
  onChange,
  className,
  look: as,
}: {
  label: string;
  options: readonly Option<T>[];
  value?: T;
  onChange: (v: T) => void;
  className?: string;
} & VariantProps<typeof look>) {
  return (
    <Radix.Root aria-label={label} className={className} value={value} onValueChange={(v) => onChange(v as T)}>
      {options.map((o) => (
        <Radix.Item key={o.value} value={o.value} aria-label={o.name} className={look({ look: as })}>
          {o.label}
        </Radix.Item>
      ))}
    </Radix.Root>
  );
}
