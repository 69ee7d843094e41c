import type { Courtesies, Settings } from "../api/client";
import { Kept, Line } from "../keeping/Line";
import { useSection } from "../keeping/useSection";
import { Words } from "../keeping/Words";
import { Fault, Field, Num } from "../kit/Field";
import { Head, Panel, Scroll } from "../kit/Panel";
import { titled } from "../kit/words";

type Hello = NonNullable<Settings["hello"]>;

/** Manners are what all commands, hellos and shout-outs have in common. */
export function Manners({ all }: { all: Courtesies }) {
  const commands = useSection("commands");
  const hello = useSection("hello");
  const shouts = useSection("shoutOuts");
  const neighbours = useSection("neighbours");
  const side = useSection("along");
  const signs = commands.value?.signs ?? {};
  const h: Hello = { words: [], restSeconds: 20, personSeconds: 1800, ...hello.value };
  return (
    <Panel className="col-span-2" label="Commands, hellos and shout-outs">
      <Head>Commands, hellos and shout-outs</Head>
      <Scroll className="px-4 pb-4" label="How they are asked and kept apart">
        <h3 className="lane px-0!">Commands</h3>
        <div className="flex flex-wrap items-center gap-2 py-1.5">
          Before a command stands
          {all.platforms.map((p) => (
            <label key={p} className="flex items-center gap-1.5">
              <Field
                size="s"
                className="w-14 text-center"
                aria-label={`Signs on ${titled(p)}`}
                placeholder="!"
                maxLength={8}
                value={signs[p] ?? ""}
                onChange={(e) => {
                  const next = { ...signs, [p]: e.target.value.trim() };
                  if (!next[p]) delete next[p];
                  commands.set({ ...commands.value, signs: Object.keys(next).length ? next : undefined });
                }}
                onBlur={() => void commands.save()}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              />
              on {titled(p)}
            </label>
          ))}
        </div>
        <p className="sub">Several in a row will do each. A name with a sign of its own is asked by that one everywhere.</p>
        {commands.fault && <Fault role="alert">{commands.fault.words}</Fault>}
        <Kept on={commands.saved} />

        <h3 className="lane px-0!">Streaming along</h3>
        {all.platforms.map((p) => (
          <Line key={p} label={titled(p)} hint="The address that shows several channels side by side: {login} is ours, {next} each further one.">
            {(id) => (
              <Field
                id={id}
                maxLength={300}
                placeholder="https://side.example/{login}/{next}"
                value={side.value?.[p] ?? ""}
                onChange={(e) => {
                  const next = { ...side.value, [p]: e.target.value.trim() };
                  if (!next[p]) delete next[p];
                  side.set(Object.keys(next).length ? next : undefined);
                }}
                onBlur={() => void side.save()}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              />
            )}
          </Line>
        ))}
        {side.fault && <Fault role="alert">{side.fault.words}</Fault>}
        <Kept on={side.saved} />

        <h3 className="lane px-0!">Neighbours</h3>
        <Line
          label="Other assistants here"
          hint="Logins of their accounts, one a line. They are not greeted and not answered, and count apart. What one says within ten seconds of a line of ours that calls it is no cause: nothing goes in circles."
          fault={neighbours.fault?.words}
        >
          {(id) => <Words id={id} rows={3} list={neighbours.value} onSet={(list) => neighbours.set(list.length ? list : undefined)} onSave={() => void neighbours.save()} />}
        </Line>
        <Kept on={neighbours.saved} />

        <h3 className="lane px-0!">Hellos</h3>
        <Line label="A hello is" hint="Words, one a line; in any case, with or without accents, and drawn out as far as people like." fault={hello.fault?.words}>
          {(id) => <Words id={id} rows={6} list={h.words} onSet={(words) => hello.set({ ...h, words })} onSave={() => void hello.save()} />}
        </Line>
        <div className="flex flex-wrap items-center gap-2 py-1.5">
          One is answered at most every
          <Num label="Seconds between answers" value={h.restSeconds} onChange={(n) => hello.set({ ...h, restSeconds: n ?? 0 })} onBlur={() => void hello.save()} />
          s, and of one person every
          <Num
            label="Seconds between answers to one person"
            value={h.personSeconds}
            onChange={(n) => hello.set({ ...h, personSeconds: n ?? 0 })}
            onBlur={() => void hello.save()}
          />{" "}
          s.
        </div>
        <p className="sub">Whoever is greeted for coming has been answered. Several close together are answered as one, where the courtesy says so.</p>
        <Kept on={hello.saved} />

        <h3 className="lane px-0!">Shout-outs</h3>
        <div className="flex flex-wrap items-center gap-2 py-1.5">
          Between any two lie at least
          <Num
            label="Seconds between shout-outs"
            value={shouts.value?.gapSeconds ?? 0}
            onChange={(n) => shouts.set({ ...shouts.value, gapSeconds: n || undefined })}
            onBlur={() => void shouts.save()}
          />
          s; what comes sooner waits in Coming up.
        </div>
        <div className="flex flex-wrap items-center gap-2 py-1.5">
          Of the house’s own accord nobody is shouted out twice in a stream, nor again within
          <Num
            label="Hours until the same person again"
            value={shouts.value?.personHours ?? 0}
            onChange={(n) => shouts.set({ ...shouts.value, personHours: n || undefined })}
            onBlur={() => void shouts.save()}
          />
          hours over streams. Whoever may ask always gets it.
        </div>
        <Line label="Never of its own accord" hint="Logins, one a line." fault={shouts.fault?.words}>
          {(id) => (
            <Words
              id={id}
              list={shouts.value?.never}
              onSet={(never) => shouts.set({ ...shouts.value, never: never.length ? never : undefined })}
              onSave={() => void shouts.save()}
            />
          )}
        </Line>
        <Kept on={shouts.saved} />
      </Scroll>
    </Panel>
  );
}
