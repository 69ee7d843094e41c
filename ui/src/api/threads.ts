import { api, ask, type Thread } from "./client";

// Many may arrive at once; what each last said to the streamer is asked for together.

const together = 60; // accounts of one question
const gathers = 40; // ms

type Waiting = { account: string; tell: (t: Thread | null) => void; fail: (why: unknown) => void };
let waiting: Waiting[] = [];

/** threadOf is what somebody last said to the streamer, or asked; null for nothing. */
export function threadOf(account: string): Promise<Thread | null> {
  return new Promise((tell, fail) => {
    if (waiting.length === 0) setTimeout(send, gathers);
    waiting.push({ account, tell, fail });
  });
}

function send() {
  const all = waiting;
  waiting = [];
  for (let i = 0; i < all.length; i += together) {
    const some = all.slice(i, i + together);
    ask(api.GET("/api/desk/threads", { params: { query: { account: [...new Set(some.map((w) => w.account))] } } })).then(
      (list) => some.forEach((w) => w.tell(list.find((t) => t.account === w.account) ?? null)),
      (why: unknown) => some.forEach((w) => w.fail(why)),
    );
  }
}
