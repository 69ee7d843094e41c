import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { useState, type ReactNode } from "react";

export type Choice = { value: string; label: string; hint?: ReactNode; off?: string };

/** Picker chooses from a list by typing. With onNew, what is typed can be taken although it is not in the list. */
export function Picker({
  label,
  choices,
  value,
  onPick,
  onNew,
  children,
  className = "btn",
  onSearch,
}: {
  label: string;
  choices: Choice[];
  value?: string;
  onPick: (value: string) => void;
  onNew?: (typed: string) => void;
  children: ReactNode;
  className?: string;
  onSearch?: (typed: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const done = (f: () => void) => {
    f();
    setOpen(false);
    setTyped("");
  };
  const fresh = typed.trim() && !choices.some((c) => c.label.toLowerCase() === typed.trim().toLowerCase());
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button className={className} aria-haspopup="listbox">
          {children}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop !w-64 !p-1.5" align="start" sideOffset={5} aria-label={label}>
          <Command shouldFilter={!onSearch} label={label}>
            <Command.Input
              className="field !py-1.5"
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
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
