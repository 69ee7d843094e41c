import { Button } from "../kit/Button";

/** GiveAway writes a profile as its file. */
export function GiveAway({ title, name, profile }: { title: string; name: string; profile: unknown }) {
  const give = () => {
    const a = document.createElement("a");
    a.href = URL.createObjectURL(new Blob([JSON.stringify(profile, null, 2) + "\n"], { type: "application/json" }));
    a.download = `${name}.profile.json`;
    a.click();
    URL.revokeObjectURL(a.href);
  };
  return (
    <Button size="s" type="button" onClick={give} aria-label={`Give ${title}'s profile away`}>
      Give away
    </Button>
  );
}
