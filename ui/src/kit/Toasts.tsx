import { Toast } from "radix-ui";
import { useSyncExternalStore } from "react";
import { heard, inPassing } from "../api/toast";
import { quietLook } from "./Button";

const passing = 6000; // ms that something said in passing stays
const withHand = 12_000; // ms, when something can be done about it

/** Toasts says at the foot of the page what was said in passing. It waits while pointer or focus rests on it, and while the page is not looked at. */
export function Toasts() {
  const list = useSyncExternalStore(inPassing.subscribe, inPassing.current);
  return (
    <Toast.Provider swipeDirection="down" label="Said in passing">
      {list.map((x) => (
        <Toast.Root key={x.id} duration={x.act ? withHand : passing} onOpenChange={(open) => !open && heard(x.id)} asChild>
          <div className="flex items-center gap-3 rounded-lg border border-line bg-surface-2 px-3.5 py-[9px]">
            <Toast.Description data-radix-toast-announce-exclude="">{x.text}</Toast.Description>
            {x.act && (
              <Toast.Action
                className={quietLook()}
                altText={x.act.label}
                onClick={(e) => {
                  if (e.detail > 0) e.currentTarget.blur(); // pressed by pointer: what is said next need not wait for the focus to leave
                  x.act!.act();
                }}
              >
                {x.act.label}
              </Toast.Action>
            )}
          </div>
        </Toast.Root>
      ))}
      {/* told to a reader where it stands, and not a second time */}
      <Toast.Viewport asChild>
        <div role="status" aria-live="polite" className="fixed bottom-[18px] left-1/2 z-50 grid max-w-[94vw] -translate-x-1/2 gap-1.5" />
      </Toast.Viewport>
    </Toast.Provider>
  );
}
