import type { ComponentProps, ReactNode } from "react";
import { tv, type VariantProps } from "tailwind-variants";
import { buttonLook } from "./Button";

export const fieldLook = tv({
  base: "w-full rounded-lg border border-line bg-ground text-text phone:min-h-[34px]",
  variants: { size: { m: "px-3 py-2", s: "px-3 py-1", xs: "px-2 py-0.5 text-[13px]" } },
  defaultVariants: { size: "m" },
});

type Size = VariantProps<typeof fieldLook>;

/** Field is a line to write in. */
export function Field({ size, className, ...rest }: Omit<ComponentProps<"input">, "size"> & Size) {
  return <input className={fieldLook({ size, className })} {...rest} />;
}

/** Area is several lines to write in. */
export function Area({ size, className, ...rest }: ComponentProps<"textarea"> & Size) {
  return <textarea className={fieldLook({ size, className })} {...rest} />;
}

/** Select chooses one of a few that are known by heart; longer lists are searched with Picker. */
export function Select({ size, className, ...rest }: Omit<ComponentProps<"select">, "size"> & { size?: "m" | "s" }) {
  return <select className={buttonLook({ size, className: ["text-left", className] })} {...rest} />;
}

/** Tick is a box that is ticked, with its words. */
export function Tick({ on, onChange, children, className }: { on: boolean; onChange: (on: boolean) => void; children: ReactNode; className?: string }) {
  return (
    <label className={tickLook({ className })}>
      <input type="checkbox" checked={on} onChange={(e) => onChange(e.target.checked)} /> {children}
    </label>
  );
}

const tickLook = tv({ base: "flex items-center gap-1.5" });

/** Num is a number, or nothing. */
export function Num({ label, value, onChange, onBlur }: { label: string; value?: number; onChange: (n?: number) => void; onBlur?: () => void }) {
  return (
    <Field
      size="xs"
      className="w-16"
      type="number"
      min={0}
      step="any"
      aria-label={label}
      value={value ?? ""}
      onChange={(e) => onChange(e.target.value === "" ? undefined : Number(e.target.value))}
      onBlur={onBlur}
    />
  );
}

/** Fault says what is wrong with what was written, and what to do. */
export function Fault({ children, className, ...rest }: ComponentProps<"p">) {
  return (
    <p className={faultLook({ className })} {...rest}>
      {children}
    </p>
  );
}

export const faultLook = tv({ base: "px-0.5 pt-1 text-[12.5px] text-persimmon" });
