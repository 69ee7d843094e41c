import "@fontsource-variable/bricolage-grotesque";
import "@fontsource-variable/figtree";
import { check, type Published } from "../check";
import "./page.css";

// The page on which anyone checks a draw. All text is other people's: it is set as text and never as mark-up.

const root = document.getElementById("draw")!;
type Child = Node | string | undefined | false;

function make<K extends keyof HTMLElementTagNameMap>(tag: K, look: string, ...children: Child[]): HTMLElementTagNameMap[K] {
  const e = document.createElement(tag);
  if (look) e.className = look;
  e.append(...children.filter((c): c is Node | string => !!c));
  return e;
}
const name = (text: string) => make("bdi", "", text);
const link = (href: string, text: string) => {
  const a = make("a", "", text);
  a.href = href;
  return a;
};
const when = (iso?: string) => (iso ? new Date(iso).toLocaleString(undefined, { dateStyle: "long", timeStyle: "short" }) : "");
const forgotten = "somebody who asked to be forgotten";

const ways: Record<Published["way"], (d: Published) => string> = {
  word: (d) => `One of those who said ${d.word ?? ""}.`,
  lately: (d) => `One of those who had spoken within the last ${d.minutes ?? 0} minutes.`,
  answer: (d) => `The first right answer${d.ask ? ` to: ${d.ask}` : ""}.`,
  number: (d) => `${d.exact ? "Whoever named the very number" : "The nearest number"}, ${d.from ?? 0} to ${d.to ?? 0}${d.ask ? `: ${d.ask}` : ""}.`,
};
const states: Record<Published["state"], string> = {
  sealing: "Its secret is being made.",
  open: "It is open. The secret is published once entries are closed.",
  closed: "Entries are closed.",
  drawing: "Drawn; somebody has to speak up still.",
  over: "It is over.",
  cancelled: "It was called off",
};

function winners(d: Published) {
  if (d.picks.length === 0 && !d.unwon?.length) return undefined;
  const list = make("ol", "picks");
  for (const p of d.picks) {
    const became = p.state === "claimed" ? "has it" : p.state === "pending" ? "has to speak up" : p.why || "passed over";
    list.append(make("li", p.state, make("b", "", name(p.name || forgotten)), make("span", "", `${d.prizes[p.prize] ?? ""} · number ${p.number} · ${became}`)));
  }
  for (const n of d.unwon ?? []) list.append(make("li", "passed", make("b", "", "Nobody"), make("span", "", `${d.prizes[n] ?? ""} · nobody was left`)));
  return make("section", "", make("h2", "", "Who was drawn"), list);
}

function found(d: Published) {
  const list = check(d);
  const box = make("section", "check", make("h2", "", "Checked here, in your browser"));
  if (list.length === 0) {
    box.append(
      make(
        "p",
        "",
        d.commit ? "There is nothing to check yet: the secret is published once entries are closed. What commits to it stands below already." : "There is nothing to check yet.",
      ),
    );
    return box;
  }
  const wrong = list.filter((f) => !f.right).length;
  const verdict = make("p", wrong ? "verdict wrong" : "verdict right", wrong ? "This draw is not right." : "This draw is right.");
  verdict.setAttribute("role", "status");
  const items = make("ul", "findings");
  for (const f of list) items.append(make("li", f.right ? "right" : "wrong", make("span", "sign", f.right ? "✓" : "✗"), make("span", "", f.says)));
  box.append(verdict, items);
  return box;
}

/** What nobody can tell from this page is said as plainly as what they can. */
function notProved() {
  return make(
    "section",
    "",
    make("h2", "", "What this does not prove"),
    make(
      "p",
      "",
      "Whoever runs the house makes the secret. Somebody who took its machine apart could know it before the end, and with it enter accounts of their own until one would win, leave somebody’s entry out while it was open, or call the draw off. So look whether you stand in the list yourself, and whether the others are people you know.",
    ),
  );
}

function facts(d: Published, raw: string) {
  const rows: [string, string | undefined][] = [
    ["Committed to before anybody entered", d.commit],
    ["What had to be guessed, sealed", d.kept],
    ["Digest of the list", d.digest],
    ["The secret", d.secret],
    ["What had to be guessed", d.keeps?.join(", ")],
    ["The number", d.answer === undefined ? undefined : String(d.answer)],
  ];
  const list = make("dl", "");
  for (const [what, value] of rows) if (value) list.append(make("div", "", make("dt", "", what), make("dd", "", value)));
  const file = link(URL.createObjectURL(new Blob([raw], { type: "application/json" })), "Keep it as a file");
  file.download = `draw-${d.number}.json`;
  return make("section", "facts", make("h2", "", "All that is published"), list, make("p", "", file, " and check it with a few lines of your own: the docs tell how."));
}

function entries(d: Published) {
  const list = make("ol", "entries");
  for (const e of d.entries) {
    const li = make(
      "li",
      e.in ? "" : "out",
      make("span", "n", String(e.number)),
      name(e.name || forgotten),
      e.guess !== undefined && make("span", "guess", String(e.guess)),
      e.void && make("span", "why", e.void),
      make("code", "", e.mark.slice(0, 12)),
    );
    li.title = `${e.account ?? ""} ${e.mark}`.trim();
    list.append(li);
  }
  return make(
    "section",
    "",
    make("h2", "", `The list, ${d.entries.length} ${d.way === "number" ? "guesses" : "entries"}`),
    d.entries.length ? list : make("p", "", "Nobody is in it."),
  );
}

async function one(id: string) {
  const answer = await fetch(`/draws/${encodeURIComponent(id)}/list`);
  if (!answer.ok) {
    root.replaceChildren(make("h1", "", "There is no such draw"), make("p", "", link("/draws", "All draws of this channel")));
    return;
  }
  const raw = await answer.text();
  const d = JSON.parse(raw) as Published;
  document.title = `Draw ${d.number} of ${d.channel}`;
  const parts: Child[] = [
    make("p", "of", "Draw ", String(d.number), " of ", name(d.channel)),
    make("h1", "", d.prizes.join(", ")),
    make("p", "", ways[d.way](d), d.who && d.who !== "everybody" ? ` For ${d.who}.` : ""),
    make("p", "state", states[d.state], d.state === "cancelled" ? `: ${d.why ?? ""}.` : "", d.opened ? ` Opened ${when(d.opened)}.` : ""),
    winners(d),
    found(d),
    entries(d),
    facts(d, raw),
    notProved(),
    make("p", "", link("/draws", "All draws of this channel")),
  ];
  root.replaceChildren(...parts.filter((c): c is Node => c instanceof Node));
  if (["sealing", "open", "closed", "drawing"].includes(d.state)) setTimeout(() => void one(id), 5000);
}

async function all() {
  const answer = (await (await fetch("/draws/list")).json()) as {
    channel: string;
    now?: string;
    past: { id: string; number: number; prizes: string[]; opened: string; state: string; winners: number }[];
  };
  document.title = `Draws of ${answer.channel}`;
  const list = make("ol", "draws");
  for (const p of answer.past)
    list.append(
      make(
        "li",
        "",
        link(`/draws/${p.id}`, `${p.number}. ${p.prizes.join(", ")}`),
        make("span", "", `${when(p.opened)} · ${p.state === "cancelled" ? "called off" : p.winners === 1 ? "one winner" : `${p.winners} winners`}`),
      ),
    );
  const parts: Child[] = [
    make("h1", "", "Draws of ", name(answer.channel)),
    answer.now && make("p", "state", "One is open now: ", link(`/draws/${answer.now}`, "look at it")),
    answer.past.length ? list : make("p", "", "There was none yet."),
  ];
  root.replaceChildren(...parts.filter((c): c is Node => c instanceof Node));
}

const id = location.pathname.split("/")[2];
void (id ? one(decodeURIComponent(id)) : all()).catch(() => root.replaceChildren(make("h1", "", "The house does not answer"), make("p", "", "Load this page again in a moment.")));
