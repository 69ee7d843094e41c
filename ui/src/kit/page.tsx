import "@fontsource-variable/figtree";
import "@fontsource-variable/bricolage-grotesque";
import "../styles.css";
import { useState, type ReactNode } from "react";
import { createRoot } from "react-dom/client";
import { Button, Out, Quiet, Toggle } from "./Button";
import { Chip, Word } from "./Chip";
import { Bead, Rope, type Way } from "./drawings/Bead";
import { Columns } from "./drawings/Columns";
import { DateShape, type DateKind } from "./drawings/DateShape";
import { Difference, type Differs } from "./drawings/Difference";
import { Lantern } from "./drawings/Lantern";
import { Pebbles } from "./drawings/Pebbles";
import { SmallEvening } from "./drawings/SmallEvening";
import { Strip } from "./drawings/Strip";
import { Usual } from "./drawings/Usual";
import { Area, Fault, Field, Num, Select, Tick } from "./Field";
import { Head, Panel } from "./Panel";
import { Pop } from "./Pop";
import { RadioGroup } from "./RadioGroup";
import { Switch } from "./Switch";
import { TabPanel, Tabs } from "./Tabs";
import { Tooltip } from "./Tooltip";

// All parts of the kit on one page, for whoever builds with them: `./run dev`, then /kit.html. It is no part of the application.

const ways: Way[] = ["at once", "gathered", "paused", "not set", "cannot"];
const kinds: DateKind[] = ["birthday", "follows since", "first came", "round number"];
const differs: Differs[] = ["only above", "only below", "words", "later", "sooner"];
const hill = (n: number, at: number) => Array.from({ length: n }, (_, i) => Math.round(6 + 3 * Math.sin(i / 9) + 20 * Math.exp(-((i - at) ** 2) / 60)));

function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="row">
      <span>{name}</span>
      <div className="flex flex-wrap items-center gap-3">{children}</div>
    </div>
  );
}

function Kit() {
  const [on, setOn] = useState(true);
  const [tab, setTab] = useState<"tide" | "shore">("tide");
  const [kind, setKind] = useState<"csv" | "vcf">("csv");
  return (
    <main className="grid gap-3 p-5">
      <h1 className="text-xl font-bold">The kit</h1>
      <div className="grid gap-3 lg:grid-cols-2">
        <Panel label="Parts">
          <Head count="with variants">Parts</Head>
          <div className="px-4 pb-4">
            <Row name="Press">
              <Button>Plain</Button>
              <Button look="lit">Lit</Button>
              <Button look="ghost">Ghost</Button>
              <Button look="grave">Grave</Button>
              <Button size="s">Small</Button>
              <Button disabled>Not now</Button>
              <Toggle on={on} onClick={() => setOn(!on)}>
                Stays
              </Toggle>
              <Quiet>why?</Quiet>
              <Out label="Take it out" />
              <Switch label="The lamp" on={on} onChange={setOn} />
            </Row>
            <Row name="Write">
              <Field aria-label="A line" placeholder="a line" className="w-40" />
              <Field size="s" aria-label="A short line" placeholder="shorter" className="w-32" />
              <Num label="A number" value={12} onChange={() => undefined} />
              <Select size="s" aria-label="One of a few">
                <option>Quayside</option>
                <option>Fernlight</option>
              </Select>
              <Area aria-label="Several lines" rows={2} className="w-48" />
              <Tick on={on} onChange={setOn}>
                ticked
              </Tick>
              <Fault>The name is empty: give one</Fault>
            </Row>
            <Row name="Choose">
              <Tabs
                label="Tabs"
                className="flex gap-1"
                tabs={[
                  { value: "tide", label: "Tide" },
                  { value: "shore", label: "Shore" },
                ]}
                value={tab}
                onChange={setTab}
              >
                <TabPanel value="tide">low water at 20:14</TabPanel>
                <TabPanel value="shore">shingle and weed</TabPanel>
              </Tabs>
              <RadioGroup
                label="Kinds"
                className="flex gap-2"
                value={kind}
                onChange={setKind}
                options={[
                  { value: "csv", label: "CSV" },
                  { value: "vcf", label: "vCard" },
                ]}
              />
            </Row>
            <Row name="Words">
              <Chip>tag prints</Chip>
              <Chip look="fill">name</Chip>
              <Word>stopped</Word>
              <Tooltip text="asked for at the desk">
                <Button size="s">Rest on me</Button>
              </Tooltip>
              <Pop label="A board" trigger={<Button size="s">Open a board…</Button>}>
                Low water is at 20:14.
              </Pop>
            </Row>
          </div>
        </Panel>
        <Panel label="Drawings">
          <Head>Drawings</Head>
          <div className="px-4 pb-4">
            <Row name="Lantern">
              {[50, 34, 30, 27, 20, 14].map((s) => (
                <Lantern key={s} initials="KE" lit size={s} shape={s > 20 ? "sail" : undefined} />
              ))}
              <Lantern initials="MM" lit={false} shape="seed" />
              <Lantern initials="NH" lit glow shape="wave" />
            </Row>
            <Row name="Beads">
              {ways.map((w) => (
                <Bead key={w} way={w} />
              ))}
              <Bead way="at once" chosen label="at once, chosen" />
              <Rope length={34} />
              <Rope length={34} held />
            </Row>
            <Row name="Dates">
              {kinds.map((k) => (
                <DateShape key={k} kind={k} />
              ))}
              {[7, 6, 3, 1].map((n) => (
                <Pebbles key={n} left={n} />
              ))}
            </Row>
            <Row name="Differs">
              {differs.map((d) => (
                <Difference key={d} kind={d} />
              ))}
            </Row>
            <Row name="Evenings">
              <SmallEvening
                label="What the tide left in the gully, two raids"
                lit
                longest={204}
                evening={{
                  minutes: hill(189, 70),
                  raids: [
                    { at: 42, viewers: 37 },
                    { at: 85, viewers: 120 },
                  ],
                }}
              />
              <SmallEvening label="Sand masons, slowly" longest={204} evening={{ minutes: hill(131, 30), raids: [] }} />
              <Strip bits="01101111011101111101" />
              <Strip bits="0000000000000000011t" />
            </Row>
            <Row name="Usual">
              <Usual name="people" value={47} usual={{ least: 24, middle: 31, most: 60 }} />
              <Usual name="house share" unit="%" value={5} usual={{ least: 8, middle: 11, most: 14 }} />
              <Usual name="raids" value={0} usual={{ least: 0, middle: 0, most: 1 }} />
            </Row>
            <Row name="Columns">
              <Columns
                label="Newcomers"
                onOpen={() => undefined}
                list={[4, 9, 2, 14, 6].map((n, i) => ({
                  key: String(i),
                  label: String(i + 56),
                  of: n,
                  filled: Math.floor(n / 3),
                  open: i > 3,
                  says: `Stream ${i + 56}: ${n} newcomers`,
                }))}
              />
            </Row>
          </div>
        </Panel>
      </div>
    </main>
  );
}

if (location.hash === "#linen") document.documentElement.dataset.theme = "linen";
createRoot(document.getElementById("root")!).render(<Kit />);
