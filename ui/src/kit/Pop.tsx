import { Popover } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";
import { tv, type VariantProps } from "tailwind-variants";

export const popLook = tv({
  base: "z-40 max-w-[94vw] rounded-[10px] border border-line bg-surface-2 text-text",
  variants: {
    width: { s: "w-64", m: "w-[360px]", l: "w-96" },
    pad: { m: "px-3.5 py-3", s: "p-1.5" },
  },
  defaultVariants: { width: "m", pad: "m" },
});

type Props = Omit<ComponentProps<typeof Popover.Content>, "className"> & VariantProps<typeof popLook> & { className?: string };

/** PopBoard is the board that comes up; with Popover's Root for whoever opens it from elsewhere. */
export function PopBoard({ label, width, pad, className, ...rest }: Props & { label?: string }) {
  return (
    <Popover.Portal>
      <Popover.Content className={popLook({ width, pad, className })} sideOffset={6} collisionPadding={8} aria-label={label} {...rest} />
    </Popover.Portal>
  );
}

/** Pop is a button's own board, which comes up beside it. */
export function Pop({ trigger, open, onOpenChange, ...rest }: Props & { label: string; trigger: ReactNode; open?: boolean; onOpenChange?: (open: boolean) => void }) {
  return (
    <Popover.Root open={open} onOpenChange={onOpenChange}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <PopBoard {...rest} />
    </Popover.Root>
  );
}

export { Popover };
