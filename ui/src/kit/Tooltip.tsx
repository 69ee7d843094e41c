import { Tooltip as Radix } from "radix-ui";
import type { ReactNode } from "react";

/** Tooltip tells more of what pointer or focus rests on; what is needed to go on never stands in it alone. */
export function Tooltip({ text, children }: { text: ReactNode; children: ReactNode }) {
  if (!text) return <>{children}</>;
  return (
    <Radix.Provider delayDuration={300}>
      <Radix.Root>
        <Radix.Trigger asChild>{children}</Radix.Trigger>
        <Radix.Portal>
          <Radix.Content
            sideOffset={5}
            collisionPadding={8}
            className="z-[70] max-w-80 rounded-md border border-line bg-surface-2 px-2.5 py-1.5 text-[12.5px] whitespace-pre-line text-text"
          >
            {text}
          </Radix.Content>
        </Radix.Portal>
      </Radix.Root>
    </Radix.Provider>
  );
}
