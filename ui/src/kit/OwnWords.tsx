import { useOwnWords } from "../api/deeds";
import { Picker } from "./Picker";

/** OwnWords opens the courtesy in which somebody has words of their own: when they are shouted out, or when they arrive. */
export function OwnWords({ account }: { account: string }) {
  const open = useOwnWords();
  return (
    <Picker
      label="Own words for them"
      size="s"
      choices={[
        { value: "shout-out", label: "when they are shouted out" },
        { value: "greeting", label: "when they arrive" },
      ]}
      onPick={(slot) => void open(account, slot as "greeting" | "shout-out")}
    >
      Own words
    </Picker>
  );
}
