import { useRef, useState } from "react";
import type { Rehearsals, SideWanted } from "../api/client";
import { Button } from "../kit/Button";
import { Tick } from "../kit/Field";
import { Pop } from "../kit/Pop";
import { useCalendar } from "../kit/time";
import { DraftChangesForm } from "./DraftChangesForm";
import { sideIs } from "./rehearsal";

type Props = {
  what: string;
  recorded: boolean;
  all: Rehearsals;
  above: SideWanted;
  below: SideWanted;
  onAbove: (s: SideWanted) => void;
  onBelow: (s: SideWanted) => void;
  ownChance: boolean;
  onOwnChance: (on: boolean) => void;
};

/** Sides is the sentence that says what is rehearsed under what: "Rehearse the stream of 19 May with your draft of 3 changes, beside the settings in force." */
export function Sides({ what, recorded, all, above, below, onAbove, onBelow, ownChance, onOwnChance }: Props) {
  return (
    <>
      Rehearse <span className="lit-value">{what}</span> with{" "}
      <Side side={below} all={all} recorded={recorded} onPick={onBelow} label="With what">
        <Tick on={ownChance} onChange={onOwnChance}>
          by a chance of its own
        </Tick>
      </Side>{" "}
      beside <Side side={above} all={all} recorded={recorded} onPick={onAbove} label="Beside what" />.
    </>
  );
}

function Side({
  side,
  all,
  recorded,
  onPick,
  label,
  children,
}: {
  side: SideWanted;
  all: Rehearsals;
  recorded: boolean;
  onPick: (s: SideWanted) => void;
  label: string;
  children?: React.ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const calendar = useCalendar();
  const pick = (s: SideWanted) => {
    onPick(s);
    if (s.kind !== "draft") setOpen(false);
  };
  const row = (s: SideWanted, words: string, hint?: string) => (
    <button key={s.kind + (s.version ?? "")} className="pick w-full text-left" data-on={s.kind === side.kind && s.version === side.version} onClick={() => pick(s)}>
      <span className="flex-1">{words}</span>
      {hint && <span className="sub">{hint}</span>}
    </button>
  );
  return (
    <Pop
      label={label}
      width="l"
      align="start"
      open={open}
      onOpenChange={setOpen}
      trigger={<button className="lit-value cursor-pointer">{sideIs(side, all, calendar.dated)}</button>}
    >
      <div className="scroll grid max-h-[60vh] gap-0.5 text-[13px]">
        {row({ kind: "force" }, "The settings in force")}
        {recorded && row({ kind: "said" }, "As it was", "what was said and done then")}
        {row({ kind: "draft", changes: side.changes ?? {} }, "Your draft", all.draft.length ? `${all.draft.length} with typed words` : "change something below")}
        {side.kind === "draft" && <DraftChangesForm all={all} changes={side.changes ?? {}} onChange={(changes) => onPick({ kind: "draft", changes })} />}
        <button className="pick w-full text-left" data-on={side.kind === "file"} onClick={() => file.current?.click()}>
          <span className="flex-1">Another house file…</span>
        </button>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          className="sr-only"
          aria-label="House file"
          tabIndex={-1}
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) void f.text().then((text) => pick({ kind: "file", file: text }));
            e.target.value = "";
          }}
        />
        <h3 className="sub m-0 px-2.5 pt-2 font-text font-semibold">Earlier versions</h3>
        {all.versions.slice(1).map((v) => row({ kind: "version", version: v.version }, v.what || "a change", `${calendar.dated(v.at)}${v.member ? ` · ${v.member}` : ""}`))}
        {all.versions.length < 2 && <span className="sub px-2.5">There was none yet.</span>}
      </div>
      {children && <div className="mt-2 px-2.5">{children}</div>}
      {side.kind === "draft" && (
        <Button size="s" className="mt-2" onClick={() => setOpen(false)}>
          Done
        </Button>
      )}
    </Pop>
  );
}
