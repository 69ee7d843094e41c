import { Command } from "cmdk";
import { useState, type ReactNode } from "react";
import { Button } from "./Button";
import { fieldLook } from "./Field";
import { Pop } from "./Pop";

export type Choice = { value: string; label: string; hint?: ReactNode; off?: string };

/** Picker chooses from a list by typing. With onNew, what is typed can be taken although it is not in the list. */
export function Picker({
  label,
  choices,
  value,
  onPick,
  onNew,
  children,
  size,
  look,
  onSearch,
  above,
  begins = false,
  width = "s",
}: {
  label: string;
  choices: Choice[];
  value?: string;
  onPick: (value: string) => void;
  onNew?: (typed: string) => void;
  children: ReactNode;
  size?: "m" | "s";
  look?: "plain" | "ghost";
  onSearch?: (typed: string) => void;
  begins?: boolean; // open
  above?: (close: () => void) => ReactNode; // stands before the list
  width?: "s" | "m";
}) {
  const [open, setOpen] = useState(begins);
  const [typed, setTyped] = useState("");
  const done = (f: () => void) => {
    f();
    setOpen(false);
    setTyped("");
  };
  const fresh = typed.trim() && !choices.some((c) => c.label.toLowerCase() === typed.trim().toLowerCase());
  return (
    <Pop
      label={label}
      width={width}
      pad="s"
      align="start"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button size={size} look={look} aria-haspopup="listbox">
          {children}
        </Button>
      }
    >
      {above?.(() => setOpen(false))}
      <Command shouldFilter={!onSearch} label={label}>
        <Command.Input
          className={fieldLook({ className: "py-1.5" })}
          placeholder={label}
          value={typed}
          onValueChange={(v) => {
            setTyped(v);
            onSearch?.(v);
          }}
        />
        <Command.List className="scroll mt-1 max-h-64">
          <Command.Empty className="sub px-2.5 py-2">Nothing by that name.</Command.Empty>
          {choices.map((c) => (
            <Command.Item
              key={c.value}
              value={onSearch ? c.value : `${c.label} ${c.value}`}
              className="pick"
              data-on={c.value === value}
              disabled={!!c.off}
              onSelect={() => done(() => onPick(c.value))}
            >
              <span className="flex-1">
                {c.label}
                {c.off && <span className="sub block">{c.off}</span>}
              </span>
              {c.hint && <span className="sub">{c.hint}</span>}
            </Command.Item>
          ))}
          {onNew && fresh && (
            <Command.Item value={`new ${typed}`} className="pick" forceMount onSelect={() => done(() => onNew(typed.trim()))}>
              <span className="cut flex-1">
                New: <b>{typed.trim()}</b>
              </span>
            </Command.Item>
          )}
        </Command.List>
      </Command>
    </Pop>
  );
}
