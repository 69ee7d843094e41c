import { useState } from "react";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button } from "../kit/Button";
import { Lantern } from "../kit/drawings/Lantern";
import { Fault, Field } from "../kit/Field";

/** SignIn stands before everything else while nobody is signed in. */
export function SignIn() {
  const deed = useDeed();
  const [fault, setFault] = useState(location.search.includes("link=used") ? "That link was used before or is over a day old. Start the house again for a fresh one." : "");
  return (
    <main className="sign">
      <h1 className="word">
        <Lantern lit size={22} /> <span>Vivid Porch</span>
      </h1>
      <p className="sub">Open the address that the start command printed: it signs you in once. If you have set a password, use it here.</p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const f = new FormData(e.currentTarget);
          void deed(api.POST("/api/session", { body: { name: String(f.get("name")), password: String(f.get("password")) } }), { stale: [about.session], fault: setFault });
        }}
      >
        <label htmlFor="name">Name</label>
        <Field id="name" name="name" autoComplete="username" required />
        <label htmlFor="password">Password</label>
        <Field id="password" name="password" type="password" autoComplete="current-password" required />
        {fault && <Fault role="alert">{fault}</Fault>}
        <Button look="lit" className="mt-4">
          Sign in
        </Button>
      </form>
    </main>
  );
}
