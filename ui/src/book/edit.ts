import type { QueryClient } from "@tanstack/react-query";
import { api, ask, said, type BookEdit } from "../api/client";
import { toast } from "../kit/toast";

/** edit changes what is set by hand, at once, and offers to take it back. */
export async function edit(client: QueryClient, persons: number[], e: Omit<BookEdit, "persons">) {
  const done = await ask(api.POST("/api/book/edit", { body: { ...e, persons } }));
  void client.invalidateQueries({ queryKey: ["book"] });
  toast(`Saved: ${done.what}`, { label: "Undo", act: () => void undo(client, done.seq) });
  return done;
}

/** undo takes an edit back by its number. */
export async function undo(client: QueryClient, seq: number) {
  try {
    await ask(api.POST("/api/book/undo", { body: { seq } }));
    toast("Taken back.");
  } catch (p) {
    toast(said(p));
  }
  void client.invalidateQueries({ queryKey: ["book"] });
}
