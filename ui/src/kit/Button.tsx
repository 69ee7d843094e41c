import { Slot } from "radix-ui";
import type { ComponentProps } from "react";
import { tv, type VariantProps } from "tailwind-variants";

/** buttonLook is how a button looks; for what is none, a link say, that is to look like one. */
export const buttonLook = tv({
  base: "inline-block cursor-pointer rounded-lg border font-text text-center no-underline font-medium whitespace-nowrap disabled:cursor-default disabled:opacity-55 phone:min-h-[34px]",
  variants: {
    look: {
      plain: "border-line bg-surface text-text hover:bg-surface-2",
      lit: "border-lamp bg-lamp font-semibold text-on-lamp",
      ghost: "border-transparent bg-transparent text-text-2 hover:bg-surface-2",
      grave: "border-persimmon bg-surface text-persimmon hover:bg-surface-2",
    },
    size: { m: "px-3 py-1.5 text-[13px]/[normal]", s: "px-[9px] py-[3px] text-[12px]/[normal]" },
    on: { true: "border-marigold bg-surface-2" },
  },
  defaultVariants: { look: "plain", size: "m" },
});

type Look = VariantProps<typeof buttonLook>;

/** Button is what is pressed: plain, lit for what is nearest to do, ghost for what is seldom done, grave for what cannot be undone. */
export function Button({ look, size, on, asChild, className, ...rest }: ComponentProps<"button"> & Look & { asChild?: boolean }) {
  const As = asChild ? Slot.Root : "button";
  return <As className={buttonLook({ look, size, on, className })} {...rest} />;
}

/** Quiet is a button that stands in a sentence or at a line's end, as words. */
export function Quiet({ className, ...rest }: ComponentProps<"button">) {
  return <button className={quietLook({ className })} {...rest} />;
}

export const quietLook = tv({ base: "cursor-pointer border-0 bg-transparent py-0.5 text-[12.5px] font-semibold whitespace-nowrap text-marigold" });

/** Toggle is a button that stays pressed. */
export function Toggle({ on, ...rest }: ComponentProps<typeof Button> & { on: boolean }) {
  return <Button aria-pressed={on} on={on} {...rest} />;
}

/** Out takes something out of where it stands; what it takes is its name. */
export function Out({ label, ...rest }: Omit<ComponentProps<typeof Button>, "children"> & { label: string }) {
  return (
    <Button size="s" look="ghost" aria-label={label} {...rest}>
      <span aria-hidden>×</span>
    </Button>
  );
}
