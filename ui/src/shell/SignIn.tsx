import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, said } from "../api/client";
import { Lantern } from "../kit/Lantern";

/** SignIn stands before everything else while nobody is signed in. */
export function SignIn() {
  const client = useQueryClient();
  const [fault, setFault] = useState(location.search.includes("link=used") ? "That link was used before or is over a day old. Start the house again for a fresh one." : "");
  return (
    <main className="panel sign">
      <h1 className="word">
        <Lantern lit size={22} /> <span>Vivid Porch</span>
      </h1>
      <p className="sub">Open the address that the start command printed: it signs you in once. If you have set a password, use it here.</p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const f = new FormData(e.currentTarget);
          ask(api.POST("/api/session", { body: { name: String(f.get("name")), password: String(f.get("password")) } })).then(
            () => client.invalidateQueries({ queryKey: ["session"] }),
            (p) => setFault(said(p)),
          );
        }}
      >
        <label htmlFor="name">Name</label>
        <input id="name" name="name" className="field" autoComplete="username" required />
        <label htmlFor="password">Password</label>
        <input id="password" name="password" type="password" className="field" autoComplete="current-password" required />
        {fault && (
          <p className="flt" role="alert">
            {fault}
          </p>
        )}
        <button className="btn lit mt-4">Sign in</button>
      </form>
    </main>
  );
}
