import type { ComponentProps } from "react";
import { tv, type VariantProps } from "tailwind-variants";

export const chipLook = tv({
  base: "max-w-full",
  variants: {
    look: {
      // a condition or a tag that stands somewhere
      cond: "overflow-hidden rounded-[7px] border border-line bg-surface-2 px-2 py-px text-[12.5px] text-ellipsis whitespace-nowrap",
      // a fill-in of a wording
      fill: "inline-flex rounded-md border-0 bg-lagoon-soft px-2 py-px font-text text-[12.5px]/[normal] font-semibold text-lagoon",
      // what kind of thing stands behind it
      kind: "mr-1 inline-block rounded-lg border border-line bg-surface-2 px-1.5 text-[12px]",
    },
  },
  defaultVariants: { look: "cond" },
});

/** Chip is a small word that stands for something: pressed, it does what its name says. */
export function Chip({ look, className, ...rest }: ComponentProps<"button"> & VariantProps<typeof chipLook>) {
  return <button className={chipLook({ look, className: ["cursor-pointer", className] })} {...rest} />;
}

/** Word is a chip that cannot be pressed. */
export function Word({ look = "kind", className, ...rest }: ComponentProps<"span"> & VariantProps<typeof chipLook>) {
  return <span className={chipLook({ look, className })} {...rest} />;
}
