import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { said } from "../api/client";
import { found as foundFor, sheet } from "../api/queries";
import { toast } from "../api/toast";
import { Picker } from "./Picker";

export type Somebody = { account: string; name: string };

/** PersonPicker finds somebody in the guest book by typing, and tells one account of theirs. With onTyped, who stands in no book can be meant by their login. */
export function PersonPicker({ label, onPick, onTyped, children }: { label: string; onPick: (who: Somebody) => void; onTyped?: (login: string) => void; children: ReactNode }) {
  const [typed, setTyped] = useState("");
  const client = useQueryClient();
  const found = useQuery(foundFor(typed));
  return (
    <Picker
      label={label}
      size="s"
      onSearch={setTyped}
      onNew={onTyped && ((t) => onTyped(t.replace(/^@/, "")))}
      choices={(found.data?.rows ?? []).map((x) => ({ value: String(x.person), label: x.name, hint: x.platforms.join(", ") }))}
      onPick={(v) =>
        client.fetchQuery(sheet(Number(v))).then(
          (s) => s.accounts[0] && onPick({ account: s.accounts[0].key, name: s.row.name }),
          (p) => toast(said(p)),
        )
      }
    >
      {children}
    </Picker>
  );
}
