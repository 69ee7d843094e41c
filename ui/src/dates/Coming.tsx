import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Dates } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button, buttonLook } from "../kit/Button";
import { Strip } from "../kit/drawings/Strip";
import { Fault, Field } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { PersonPicker, type Somebody } from "../kit/PersonPicker";
import { Pop } from "../kit/Pop";
import { monthOf, weekday } from "./dates";
import { Who } from "./Who";

/** Coming are the next thirty days, as people: how sure it is that they come, and whether there is a stream. */
export function Coming({ d }: { d: Dates }) {
  const people = new Set(d.coming.map((e) => e.person)).size;
  return (
    <Panel label="Next 30 days" className="next">
      <Head
        count={people === 1 ? "1 person" : `${people} people`}
        end={
          <span className="flex gap-1.5">
            <AddDate />
            <Link to="/book/in" className={buttonLook({ size: "s" })}>
              Bring in
            </Link>
          </span>
        }
      >
        Next 30 days
      </Head>
      <Scroll label="The next 30 days">
        {d.coming.length === 0 && (
          <Empty>
            <b>No date is known for the next 30 days.</b> People tell theirs in chat; follow dates come with the platform, or bring them in.
          </Empty>
        )}
        {d.coming.map((e, i) => (
          <div key={`${e.person} ${e.kind} ${e.on}`}>
            {monthOf(e.on) !== monthOf(d.coming[i - 1]?.on ?? "1900-01-01") && <h3 className="sub px-4 pt-1.5 font-semibold">{monthOf(e.on)}</h3>}
            <div className="next-row">
              <div className="next-day" data-stream={e.stream}>
                <b>{Number(e.on.slice(8))}</b>
                {weekday(e.on)}
              </div>
              <Who e={e} />
              <div className="odds">
                <Strip bits={e.strip} />
                <span className="sub flex justify-between whitespace-nowrap">
                  <span>{e.chance}</span>
                  <span className="flex items-center gap-1.5">
                    <i className={e.stream ? "lamp" : "lamp out"} aria-hidden />
                    {e.stream ? "stream" : "no stream"}
                  </span>
                </span>
              </div>
            </div>
          </div>
        ))}
      </Scroll>
    </Panel>
  );
}

/** AddDate writes somebody's birthday down by hand. */
function AddDate() {
  const deed = useDeed();
  const [open, setOpen] = useState(false);
  const [who, setWho] = useState<Somebody>();
  const [day, setDay] = useState("");
  const [fault, setFault] = useState("");
  const save = async () => {
    if (!who) return;
    setFault("");
    const { person } = await ask(api.GET("/api/book/accounts/{account}", { params: { path: { account: who.account } } }));
    const done = await deed(api.POST("/api/book/edit", { body: { persons: [person], set: { birthday: day } } }), {
      stale: [about.dates, about.book],
      say: `Kept: the birthday of ${who.name}.`,
      fault: setFault,
    });
    if (!done) return;
    setOpen(false);
    setWho(undefined);
    setDay("");
  };
  return (
    <Pop label="Add a date" open={open} onOpenChange={setOpen} trigger={<Button size="s">Add a date</Button>}>
      <form
        className="grid gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <span>
          The birthday of{" "}
          <PersonPicker label="Whose" onPick={setWho}>
            {who?.name ?? "choose somebody…"}
          </PersonPicker>
        </span>
        <Field size="s" aria-label="Their birthday" placeholder="9 March, or 9 March 1990" value={day} onChange={(e) => setDay(e.target.value)} />
        {fault && <Fault role="alert">{fault}</Fault>}
        <Button size="s" look="lit" type="submit" disabled={!who || !day.trim()}>
          Keep it
        </Button>
      </form>
    </Pop>
  );
}
