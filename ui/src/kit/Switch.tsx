import { Switch as Radix } from "radix-ui";

/** Switch is a small lamp that is lit or not; its name says of what. */
export function Switch({ on, onChange, label }: { on: boolean; onChange: (on: boolean) => void; label: string }) {
  return (
    <Radix.Root
      checked={on}
      onCheckedChange={onChange}
      aria-label={label}
      className="group grid h-6 w-6 flex-none cursor-pointer place-items-center rounded-md border-0 bg-transparent"
    >
      <Radix.Thumb className="h-2.5 w-2.5 rounded-full border-[1.5px] border-text-3 group-data-[state=checked]:border-lamp group-data-[state=checked]:bg-lamp" />
    </Radix.Root>
  );
}
