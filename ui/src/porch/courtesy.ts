import { api, ask, said } from "../api/client";
import { toast } from "../kit/toast";

/** courtesy asks for a courtesy by hand for somebody. */
export function courtesy(act: "shoutout" | "greet", account: string) {
  ask(api.POST("/api/desk/ask", { body: { act, account } })).then(
    (d) => toast(d.done ? "It is in Coming up; five seconds to drop it." : d.because.join("; ")),
    (p) => toast(said(p)),
  );
}
