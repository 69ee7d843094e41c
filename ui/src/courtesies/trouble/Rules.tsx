import { useQuery } from "@tanstack/react-query";
import { about, guard } from "../../api/queries";
import { useAgain } from "../../api/deeds";
import { useSection } from "../../keeping/useSection";
import { Picker } from "../../kit/Picker";
import { Switch } from "../../kit/Switch";
import type { Rule } from "./measures";

/** Rules are what is looked for when there is trouble, as sentences in their lane. */
export function Rules({ chosen, onOpen, onLog, log }: { chosen?: string; onOpen: (id: string) => void; onLog: () => void; log: boolean }) {
  const s = useSection("guard");
  const page = useQuery(guard).data;
  const again = useAgain();
  const list = s.value?.rules ?? [];
  const put = async (rules: Rule[]) => {
    const ok = await s.put({ ...s.value, rules });
    await again(about.guard);
    return ok;
  };
  const add = async (kind: string) => {
    const start = page!.kinds.find((k) => k.kind === kind)!.start as unknown as Rule;
    let id = start.id.replaceAll(" ", "-");
    for (let n = 2; list.some((r) => r.id === id); n++) id = `${start.id.replaceAll(" ", "-")}-${n}`;
    if (await put([...list, { ...start, id }])) onOpen(id);
  };
  return (
    <>
      {list.map((r) => {
        const says = page?.rules.find((x) => x.id === r.id)?.says ?? r.kind;
        return (
          <div key={r.id} className={r.on ? "c" : "c off"}>
            <Switch
              on={!!r.on}
              label={`Look for ${says}: ${r.on ? "on" : "off"}`}
              onChange={() => void put(list.map((x) => (x.id === r.id ? { ...x, on: !x.on || undefined } : x)))}
            />
            <button aria-current={chosen === r.id ? true : undefined} onClick={() => onOpen(r.id)}>
              Look for <b>{says}</b>
            </button>
          </div>
        );
      })}
      <div className="c">
        <Picker label="What to look for" size="s" choices={(page?.kinds ?? []).map((k) => ({ value: k.kind, label: k.title }))} onPick={(kind) => void add(kind)}>
          Look for something more…
        </Picker>
      </div>
      <div className="c">
        <button aria-current={log ? true : undefined} onClick={onLog}>
          What the <b>guard</b> did, and how it stands
        </button>
      </div>
    </>
  );
}
