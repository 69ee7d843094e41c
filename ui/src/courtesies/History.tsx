import { useQuery } from "@tanstack/react-query";
import { useSettingsUndo } from "../api/deeds";
import { history } from "../api/queries";
import { Button } from "../kit/Button";
import { Panel } from "../kit/Panel";
import { useCalendar } from "../kit/time";

/** History lists the last versions of the settings; any of them can be taken back. */
export function History() {
  const q = useQuery(history);
  const undo = useSettingsUndo();
  const calendar = useCalendar();
  return (
    <Panel className="col-span-2" label="What was changed">
      <div className="ed">
        <p className="sent">
          What was <u>changed</u>, newest first.
        </p>
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
      </div>
    </Panel>
  );
}
