import "@fontsource-variable/bricolage-grotesque";
import "@fontsource-variable/figtree";
import "./ear.css";

// The page in the ear: it says softly who arrives and what waits, to whoever listens here and to nobody else.

interface Said {
  do: "say" | "beat";
  text: string;
  path?: string;
  gain?: number;
}

const base = location.pathname.replace(/\/$/, "");
const root = document.getElementById("ear")!;
const make = <K extends keyof HTMLElementTagNameMap>(tag: K, look: string, text = "") => {
  const e = document.createElement(tag);
  e.className = look;
  e.textContent = text;
  root.append(e);
  return e;
};
make("h1", "", "In the ear");
const state = make("p", "state", "Not connected");
state.setAttribute("role", "status");
const listen = make("button", "press", "Listen");
const list = make("ol", "said");
list.setAttribute("aria-label", "What was said, the newest first");
make("p", "hint", "Press M to be silent, and again to listen. Nobody else hears this.");

let on = false;
let sounds: AudioContext | undefined;
const waits: Said[] = [];
let playing: AudioBufferSourceNode | undefined;
/** So many words stay to be read, and may wait to be said. */
const [kept, most] = [12, 4];

function show() {
  listen.textContent = on ? "Silent" : "Listen";
  listen.setAttribute("aria-pressed", String(on));
  if (on) return;
  waits.length = 0;
  playing?.stop();
}

function turn() {
  on = !on;
  sounds ??= new AudioContext();
  void sounds.resume();
  show();
}
listen.addEventListener("click", turn);
addEventListener("keydown", (e) => {
  if (e.key.toLowerCase() === "m" && !e.ctrlKey && !e.metaKey && !e.altKey) turn();
});

async function next() {
  const m = waits.shift();
  if (!m || !sounds || !on) return;
  try {
    const data = await (await fetch(`${base}/${m.path}`)).arrayBuffer();
    const source = new AudioBufferSourceNode(sounds, { buffer: await sounds.decodeAudioData(data) });
    source.connect(new GainNode(sounds, { gain: Math.min(m.gain ?? 0.3, 1) })).connect(sounds.destination);
    playing = source;
    await new Promise<void>((done) => {
      source.onended = () => done();
      if (on) source.start();
      else done();
    });
  } catch {
    // it stands there to be read
  }
  playing = undefined;
  void next();
}

function hear(m: Said) {
  if (m.do !== "say") return;
  const line = document.createElement("li");
  line.textContent = m.text;
  list.prepend(line);
  while (list.children.length > kept) list.lastElementChild!.remove();
  if (!on || !m.path) return;
  waits.push(m);
  if (waits.length > most) waits.shift();
  if (!playing) void next();
}

let tries = 0;
function connect() {
  const socket = new WebSocket(`${location.protocol.replace("http", "ws")}//${location.host}${base}/live`);
  socket.onopen = () => {
    tries = 0;
    state.textContent = "Connected";
  };
  socket.onmessage = (m) => hear(JSON.parse(String(m.data)) as Said);
  socket.onclose = () => {
    state.textContent = "Not connected; trying again";
    setTimeout(connect, Math.min(500 * 2 ** tries++, 10_000));
  };
}
show();
connect();
