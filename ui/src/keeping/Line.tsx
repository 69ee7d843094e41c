import { useId, type ReactNode } from "react";
import { Button } from "../kit/Button";
import { Fault } from "../kit/Field";
import { toast } from "../api/toast";

/** Line is a setting: what it is, how it is set, a word beside it, and what is wrong with it. */
export function Line({ label, hint, fault, children }: { label: string; hint?: ReactNode; fault?: string; children: (id: string) => ReactNode }) {
  const id = useId();
  return (
    <div className="grid grid-cols-[minmax(120px,180px)_minmax(0,1fr)] items-start gap-x-4 gap-y-0.5 py-2 phone:grid-cols-1">
      <label htmlFor={id} className="pt-2 font-medium text-text-2 phone:pt-0">
        {label}
      </label>
      <div className="max-w-xl min-w-0">
        {children(id)}
        {hint && <p className="sub m-0 pt-1">{hint}</p>}
        {fault && <Fault role="alert">{fault}</Fault>}
      </div>
    </div>
  );
}

/** Kept says in a quiet word that what was typed is in force. */
export function Kept({ on }: { on: boolean }) {
  return (
    <span className="sub text-fern" role="status">
      {on ? "in force" : ""}
    </span>
  );
}

/** Copyable is a line that is to be taken elsewhere, with its button. */
export function Copyable({ text, label }: { text: string; label: string }) {
  return (
    <span className="flex max-w-full flex-wrap items-center gap-2">
      <code className="rounded-md border border-line bg-ground px-2 py-1 text-[13px] [overflow-wrap:anywhere]">{text}</code>
      <Button
        size="s"
        type="button"
        aria-label={`Copy ${label}`}
        onClick={() =>
          navigator.clipboard.writeText(text).then(
            () => toast("Copied"),
            () => toast("Select it and copy it by hand."),
          )
        }
      >
        Copy
      </Button>
    </span>
  );
}
