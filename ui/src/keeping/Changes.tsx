import { useQuery } from "@tanstack/react-query";
import { useSettingsUndo } from "../api/deeds";
import { history } from "../api/queries";
import { Button } from "../kit/Button";
import { Panel, Scroll } from "../kit/Panel";
import { useCalendar } from "../kit/time";

/** History lists the last versions of the settings; any of them can be taken back. */
export function Changes({ className }: { className?: string }) {
  const q = useQuery(history);
  const undo = useSettingsUndo();
  const calendar = useCalendar();
  return (
    <Panel className={className} label="What was changed">
      <Scroll className="ed" label="What was changed, newest first">
        <h1 className="sent">
          What was <u>changed</u>, newest first.
        </h1>
        {q.data?.map((v) => (
          <div key={v.version} className="row grid-cols-[64px_1fr_auto]">
            <span>{v.version}</span>
            <div>
              {v.what}
              <div className="sub">
                {calendar.fully(v.at)}
                {v.member && ` · ${v.member}`}
              </div>
            </div>
            {v.version > 1 && (
              <Button size="s" onClick={() => void undo(v.version)}>
                Undo
              </Button>
            )}
          </div>
        ))}
      </Scroll>
    </Panel>
  );
}
