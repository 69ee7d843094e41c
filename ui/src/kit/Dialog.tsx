import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { tv, type VariantProps } from "tailwind-variants";

const look = tv({
  base: "fixed left-1/2 z-[60] max-w-[94vw] -translate-x-1/2 overflow-auto rounded-[10px] border border-line bg-surface-2 text-text",
  variants: {
    place: { middle: "top-1/2 max-h-[80vh] w-[640px] -translate-y-1/2 p-5", high: "top-[14vh] w-[560px] p-2" },
  },
  defaultVariants: { place: "middle" },
});

/** Dialog stands before the page until it is answered or closed. */
export function Dialog({ title, quiet, onClose, place, children }: { title: string; quiet?: boolean; onClose: () => void; children: ReactNode } & VariantProps<typeof look>) {
  return (
    <Radix.Root open onOpenChange={(o) => !o && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-[55] bg-ground/70" />
        <Radix.Content className={look({ place })} aria-describedby={undefined}>
          <Radix.Title className={quiet ? "sr-only" : "text-lg"}>{title}</Radix.Title>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
