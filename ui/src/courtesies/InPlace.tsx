import { useEffect, useState, type ReactNode } from "react";
import type { Courtesies, CourtesyView, Who } from "../api/client";
import { Button } from "../kit/Button";
import { Fault } from "../kit/Field";
import { Pop } from "../kit/Pop";
import { AskedBy } from "./AskedBy";
import { Composer } from "./Composer";
import { nameOf } from "./table";
import { useDraft } from "./useDraft";
import { useRule } from "./useRule";
import { WhoForm } from "../whom/WhoForm";

// What a row of the table says is changed where it stands: by the same parts as in the editor, so that it is
// held against the others, kept and taken back alike.

type Props = { c: CourtesyView; all: Courtesies; children: ReactNode };

/** In is a cell that opens what it says, to be changed where it stands. */
function In({
  label,
  own,
  children,
  body,
}: {
  label: string;
  own?: boolean; // what stands in it is told of Escape, and closes itself
  children: ReactNode;
  body: (close: () => void, escaped: boolean) => ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [within, setWithin] = useState(false); // it was closed from within: focus goes back to the row
  const [escaped, setEscaped] = useState(false);
  const close = () => {
    setWithin(true);
    setOpen(false);
  };
  return (
    <Pop
      label={label}
      width="l"
      align="start"
      open={open}
      onOpenChange={(on) => {
        setWithin(false);
        setEscaped(false);
        setOpen(on);
      }}
      onEscapeKeyDown={(e) => {
        e.preventDefault();
        if (document.querySelector(".cm-tooltip-autocomplete")) return; // closes that alone
        if (own) setEscaped(true);
        else close();
      }}
      onCloseAutoFocus={(e) => !within && e.preventDefault()} // else whatever was pressed meanwhile loses it, and closes
      onOpenAutoFocus={(e) => {
        e.preventDefault(); // into what is written, not onto the button that takes the first word out
        (e.currentTarget as HTMLElement).querySelector<HTMLElement>(".cm-content, input")?.focus();
      }}
      trigger={
        <button className="in-place" aria-label={label}>
          {children}
        </button>
      }
    >
      {open && body(close, escaped)}
    </Pop>
  );
}

/** Names are what a command is asked by; a clash is said at the word while it is typed. */
export function Names({ c, all, children }: Props) {
  return (
    <In label={`What ${nameOf(c)} is asked by`} body={() => <NamesForm c={c} all={all} />}>
      {children}
    </In>
  );
}

function NamesForm({ c, all }: Omit<Props, "children">) {
  const { rule, change, fault } = useRule(c, all.version);
  return (
    <>
      <AskedBy c={c} all={all} rule={rule} change={change} />
      {fault && <Fault role="status">{fault}</Fault>}
    </>
  );
}

/** AnswerText is a command's first answer. It comes into force on Enter or on leaving it. */
export function AnswerText({ c, all, children }: Props) {
  const say = c.outputs.find((o) => o.kind === "say");
  if (!say) return children;
  return (
    <In label={`Answer of ${nameOf(c)}`} own body={(close, escaped) => <AnswerForm c={c} all={all} output={say.id} close={close} escaped={escaped} />}>
      {children}
    </In>
  );
}

function AnswerForm({ c, all, output, close, escaped }: Omit<Props, "children"> & { output: string; close: () => void; escaped: boolean }) {
  const { draft, faults, change, enact, back } = useDraft(c, all.version);
  useEffect(() => {
    if (!escaped) return;
    void back(); // what was typed is taken back
    close(); // at once: whatever is pressed next would lose the focus to it
  }, [escaped]); // eslint-disable-line react-hooks/exhaustive-deps -- once for the key
  const words = draft.outputs.find((o) => o.id === output);
  const more = (words?.alternatives.length ?? 0) - 1;
  const mine = faults.filter((f) => f.at === `${output}.alternatives.0`);
  return (
    <div>
      <Composer
        label="Its answer"
        value={words?.alternatives[0] ?? ""}
        fillIns={c.fillIns}
        emotes={all.own.emotes}
        platforms={all.platforms}
        faults={mine}
        onChange={(s) => change(output, (w) => ({ ...w, alternatives: [s, ...w.alternatives.slice(1)] }))}
        onLeave={() => void enact()}
        onEnter={() => void enact().then(close)}
      />
      {mine.map((f, i) => (
        <Fault key={i}>
          {f.what}: {f.remedy}
        </Fault>
      ))}
      <p className="sub pt-1">
        Enter puts it in force. {"{"} puts in a fill-in, : an emoji.
        {more > 0 && ` ${more === 1 ? "One more answer stands" : `${more} more answers stand`} on its own page.`}
      </p>
    </div>
  );
}

/** WhoMay is who may ask for a command, and when. */
export function WhoMay({ c, all, children }: Props) {
  return (
    <In label={`Who may ask for ${nameOf(c)}`} body={() => <WhoFormOf c={c} all={all} />}>
      {children}
    </In>
  );
}

function WhoFormOf({ c, all }: Omit<Props, "children">) {
  const { rule, change, fault } = useRule(c, all.version);
  return (
    <>
      <Whom all={all} who={rule.who} known={c.rule.who} onChange={(who) => change({ who })} />
      {fault && <Fault role="status">{fault}</Fault>}
    </>
  );
}

/** WhoOfAll sets who may ask for several commands at once. */
export function WhoOfAll({ all, onSet }: { all: Courtesies; onSet: (who: Who) => void }) {
  const [open, setOpen] = useState(false);
  const [who, setWho] = useState<Who>({});
  return (
    <Pop
      label="Who may ask for them"
      width="l"
      open={open}
      onOpenChange={(on) => {
        if (on) setWho({});
        setOpen(on);
      }}
      trigger={<Button size="s">Who may ask…</Button>}
    >
      <Whom all={all} who={who} onChange={setWho} />
      <Button
        size="s"
        look="lit"
        className="mt-2"
        onClick={() => {
          setOpen(false);
          onSet(who);
        }}
      >
        So be it
      </Button>
    </Pop>
  );
}

function Whom({ all, who, known, onChange }: { all: Courtesies; who: Who; known?: Who; onChange: (w: Who) => void }) {
  const [names, setNames] = useState<Record<string, string>>({});
  return (
    <>
      {Object.keys(who).length === 0 && <p className="sub pb-1">Anyone, as it stands.</p>}
      <WhoForm
        who={who}
        command
        onChange={onChange}
        platforms={all.platforms}
        fields={[]}
        nameOf={(a) => names[a] ?? (a === known?.account ? (known.account ?? a) : a)}
        learn={(a, n) => setNames((m) => ({ ...m, [a]: n }))}
      />
    </>
  );
}
