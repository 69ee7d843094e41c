import { useState } from "react";
import { api, type CommandRow, type Courtesies } from "../api/client";
import { useDeed, useSettingsUndo } from "../api/deeds";
import { about } from "../api/queries";
import { Button } from "../kit/Button";
import { Dialog } from "../kit/Dialog";
import { Area, Fault } from "../kit/Field";

const becomes: Record<CommandRow["becomes"], string> = { new: "new", changed: "changes the answer", same: "as it is", refused: "cannot be taken" };

/** BringIn takes in a list of commands: each row says what becomes of it before anything is taken. */
export function BringIn({ all }: { all: Courtesies }) {
  const deed = useDeed();
  const undo = useSettingsUndo();
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [rows, setRows] = useState<CommandRow[]>();
  const [without, setWithout] = useState<ReadonlySet<number>>(new Set());
  const [fault, setFault] = useState("");
  const takes = (rows ?? []).filter((r) => (r.becomes === "new" || r.becomes === "changed") && !without.has(r.row));
  const look = async (text: string) => {
    const got = await deed(api.POST("/api/commands/look", { body: { text } }), { fault: setFault });
    if (!got) return;
    setFault("");
    setWithout(new Set());
    setRows(got.rows);
  };
  const take = async () => {
    const got = await deed(api.POST("/api/commands/take", { body: { text, without: [...without] } }), {
      stale: [about.courtesies, about.history],
      say: (d) => `${d.taken} taken in${d.refused ? `, ${d.refused} not` : ""}`,
      undo: (d) => undo(d.version),
      fault: setFault,
    });
    if (!got) return;
    setOpen(false);
    setText("");
    setRows(undefined);
  };
  return (
    <>
      <Button size="s" onClick={() => setOpen(true)}>
        Bring in…
      </Button>
      {open && (
        <Dialog title="Bring commands in" onClose={() => setOpen(false)}>
          {!rows ? (
            <form
              onSubmit={(e) => {
                e.preventDefault();
                void look(text);
              }}
            >
              <p className="pb-2">Paste a list, a command a line: its name, then its answer. A CSV or JSON file will do too, of this house or of another assistant.</p>
              <Area
                aria-label="A list of commands"
                rows={10}
                value={text}
                onChange={(e) => setText(e.target.value)}
                placeholder={"tides  High at nine tonight\nrules  Be kind to limpets"}
              />
              <div className="flex items-center gap-2 pt-2">
                <input
                  type="file"
                  aria-label="A file of commands"
                  accept=".csv,.json,.txt,text/csv,application/json,text/plain"
                  onChange={(e) => {
                    const f = e.target.files?.[0];
                    if (f)
                      void f.text().then((t) => {
                        setText(t);
                        return look(t);
                      });
                  }}
                />
                <Button className="ml-auto" look="lit" disabled={!text.trim()} type="submit">
                  See what it holds
                </Button>
              </div>
              {fault && <Fault role="alert">{fault}</Fault>}
            </form>
          ) : (
            <>
              <p className="pb-2">
                {rows.length} rows: {takes.length} come in{all.platforms.length ? "" : ", though there is no chat to say them in yet"}. Nothing is taken until you say so.
              </p>
              <ul className="scroll m-0 max-h-[46vh] list-none p-0" data-testid="commands-in">
                {rows.map((r) => (
                  <li key={r.row} className="grid grid-cols-[24px_minmax(90px,0.6fr)_minmax(0,2fr)_130px] items-baseline gap-2 border-b border-line py-1.5">
                    <input
                      type="checkbox"
                      aria-label={`Take ${r.name || `row ${r.row}`}`}
                      disabled={r.becomes === "refused" || r.becomes === "same"}
                      checked={(r.becomes === "new" || r.becomes === "changed") && !without.has(r.row)}
                      onChange={() =>
                        setWithout((was) => {
                          const next = new Set(was);
                          if (!next.delete(r.row)) next.add(r.row);
                          return next;
                        })
                      }
                    />
                    <b className="cut">
                      <bdi>{r.name || `row ${r.row}`}</bdi>
                    </b>
                    <span className="min-w-0">
                      <bdi className="block">{r.answer}</bdi>
                      {r.blanks.map((b) => (
                        <span key={b.was} className={b.as ? "sub block" : "block text-[12.5px] text-persimmon"}>
                          <code>{b.was}</code> {b.as ? `is taken for “${b.as}”` : "is none of our fill-ins: it comes in switched off, to be mended first"}
                        </span>
                      ))}
                      {r.why && <Fault>{r.why}</Fault>}
                    </span>
                    <span className={r.becomes === "refused" ? "text-persimmon" : "sub"}>
                      {becomes[r.becomes]}
                      {r.off && r.becomes !== "refused" && ", off"}
                    </span>
                  </li>
                ))}
              </ul>
              {fault && <Fault role="alert">{fault}</Fault>}
              <div className="flex items-center gap-2 pt-3">
                <Button onClick={() => setRows(undefined)}>Back to the list</Button>
                <Button className="ml-auto" look="lit" disabled={takes.length === 0} onClick={() => void take()}>
                  Take {takes.length} in
                </Button>
              </div>
            </>
          )}
        </Dialog>
      )}
    </>
  );
}
