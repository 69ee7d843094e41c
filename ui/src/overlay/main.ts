import "@fontsource-variable/bricolage-grotesque";
import "@fontsource-variable/figtree";
import "./overlay.css";
import type { Frame, Known, Show } from "./frames";
import { wake } from "./sound";
import { Stage } from "./stage";

// The page that the streaming software shows: it connects, and connects again for ever, and shows what it is told.

const base = location.pathname.replace(/\/$/, "");
let ahead = 0; // of the house's clock to this machine's, in milliseconds
const stage = new Stage(document.getElementById("stage")!, { media: (m) => `${base}/${m.path ?? `media/${encodeURIComponent(m.name)}`}`, now: () => Date.now() + ahead });

wake();

/** What was shown lately is remembered over a reload, so that nothing is shown twice. */
interface Remembered {
  show: string;
  began: number;
  seconds: number;
  seen: number;
  over: boolean;
}
const memory = `shown ${base}`;
const mostRemembered = 20;
const shows: Remembered[] = (() => {
  try {
    return JSON.parse(sessionStorage.getItem(memory) ?? "[]") as Remembered[];
  } catch {
    return [];
  }
})();
const cut = new Set(shows.filter((s) => !s.over).map((s) => s.show)); // by a reload
const remember = () => {
  shows.splice(0, Math.max(0, shows.length - mostRemembered));
  try {
    sessionStorage.setItem(memory, JSON.stringify(shows));
  } catch {
    // then a reload forgets
  }
};
setInterval(() => {
  const on = shows.filter((s) => !s.over && !cut.has(s.show));
  if (!on.length) return;
  on.forEach((s) => (s.seen = Date.now()));
  remember();
}, 100);

const known = (): Known[] =>
  shows.map((s) => {
    const on = !s.over && !cut.has(s.show);
    const spent = ((on ? Date.now() : s.seen) - s.began) / 1000;
    return { show: s.show, seconds: Math.max(0, Math.min(spent, s.seconds)), left: on ? Math.max(0, s.seconds - spent) : undefined, on, over: s.over };
  });

let socket: WebSocket | undefined;
let line = 0;
let tries = 0;
const tell = (m: object) => socket?.readyState === WebSocket.OPEN && socket.send(JSON.stringify(m));

function show(f: Show) {
  const was = shows.find((s) => s.show === f.show);
  if (was && !cut.has(f.show)) {
    // It was shown already, and the house has not heard of it.
    tell({ begun: f.show, seconds: was.seconds });
    if (was.over) tell({ ended: f.show });
    return;
  }
  cut.delete(f.show);
  const mine: Remembered = was ?? { show: f.show, began: 0, seconds: f.seconds, seen: 0, over: false };
  if (!was) shows.push(mine);
  mine.began = mine.seen = Date.now();
  void stage
    .show(f, (seconds) => {
      mine.began = mine.seen = Date.now();
      mine.seconds = seconds;
      remember();
      tell({ begun: f.show, seconds });
    })
    .then((failed) => {
      mine.over = true;
      remember();
      tell({ ended: f.show, failed: failed || undefined });
    });
}

function hear(f: Frame) {
  switch (f.do) {
    case "stand":
      ahead = Date.parse(f.now) - Date.now();
      stage.stand(f.overlay, f.board, f.lines);
      f.lines?.forEach((l) => (line = Math.max(line, l.id)));
      f.samples?.forEach((id) => stage.sample(id, true));
      return;
    case "board":
      ahead = Date.parse(f.now) - Date.now();
      return stage.shows(f.board);
    case "show":
      return show(f);
    case "try":
      return void stage.show(f);
    case "line":
      line = f.line.id;
      return stage.line(f.line, true);
    case "unline":
      return stage.unline(f.ids);
    case "sample":
      return stage.sample(f.box, f.on);
    case "silence":
      return stage.silence();
    case "drop":
      return stage.drop(f.show);
    case "gone":
      return stage.clear();
  }
}

/** Nothing was heard for so long, in milliseconds: the connection is taken to be dead. The house asks more often than that. */
const deadAfter = 40_000;
let heard = Date.now();

function connect() {
  socket = new WebSocket(`${location.protocol.replace("http", "ws")}//${location.host}${base}/live`);
  socket.onopen = () => {
    tries = 0;
    heard = Date.now();
    tell({ hello: { shows: known(), line } });
  };
  socket.onmessage = (m) => {
    heard = Date.now();
    hear(JSON.parse(String(m.data)) as Frame);
  };
  socket.onclose = () => setTimeout(connect, Math.min(250 * 2 ** tries++, 5000) * (0.75 + Math.random() / 2));
}
connect();
setInterval(() => {
  if (socket?.readyState === WebSocket.OPEN && Date.now() - heard > deadAfter) socket.close();
}, 5000);
