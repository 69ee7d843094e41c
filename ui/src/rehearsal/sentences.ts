import { useQuery } from "@tanstack/react-query";
import { courtesies } from "../api/queries";

/** useSentences are the courtesies as they read. */
export function useSentences(): { id: string; text: string; on: boolean }[] {
  return (useQuery(courtesies).data?.courtesies ?? []).map((c) => ({ id: c.id, on: c.on, text: c.sentence.map((p) => p.text).join("") }));
}
