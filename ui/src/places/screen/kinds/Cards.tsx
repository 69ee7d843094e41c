import { Num } from "../../../kit/Field";
import { RadioGroup } from "../../../kit/RadioGroup";
import { contrast, tokenOf } from "./colour";
import { Colour, Few, FromShelf, Row, Type, type FormOf } from "./parts";

const looks = [
  ["hung lantern", "M0 8H84M16 8v6M36 8v6M76 8v6", "M32 14H81l3 3v25H28V17Z"],
  ["glass slide", "M5 17H87", "M5 17H87V41H5Z"],
  ["tide line", "M0 38c9-4 15 3 25 0s17-3 26 0 17 2 25-1 11-1 16 0", ""],
] as const;

/** Cards sets how cards look, move and stay. */
export function Cards({ box, set }: FormOf) {
  const colours = { board: box.board ?? tokenOf("--color-screen-board"), words: box.words ?? tokenOf("--color-screen-words"), light: box.light ?? tokenOf("--color-screen-light") };
  const [read, shine] = [contrast(colours.words, colours.board), contrast(colours.light, colours.board)];
  return (
    <>
      <RadioGroup
        label="Look"
        className="looks"
        value={box.look ?? "hung lantern"}
        onChange={(look) => set({ look: look as typeof box.look })}
        options={looks.map(([name, lines, board]) => ({
          value: name,
          name,
          label: (
            <>
              <svg viewBox="0 0 92 54" aria-hidden>
                <rect width="92" height="54" fill="var(--color-lagoon-soft)" />
                {board && <path d={board} fill={name === "glass slide" ? "var(--color-screen-water)" : "var(--color-screen-board)"} opacity=".8" />}
                <path d={lines} stroke="var(--color-screen-iron)" strokeWidth="2" fill="none" />
                <path d="M11 16h10c3 3 4 6 4 9s-1 7-4 10H11c-3-3-4-6-4-10s1-6 4-9Z" fill="var(--color-screen-light)" />
                <path d="M36 24h28" stroke="var(--color-screen-words)" strokeWidth="4" />
                <path d="M36 31.500h36" stroke="var(--color-screen-light)" strokeWidth="2.500" />
              </svg>
              {name}
            </>
          ),
        }))}
      />
      <Type box={box} set={set} usual={60} of="the heading" />
      <Row label="Colours">
        <span className="few">
          {(["board", "words", "light"] as const).map((c) => (
            <label key={c} className="flex items-center gap-1.5">
              <Colour label={`Colour of the ${c}`} value={colours[c]} onChange={(v, keep) => set({ [c]: v }, keep)} /> {c}
            </label>
          ))}
        </span>
        {/* 4.5 to 1 for words, 3 to 1 for what is large: WCAG 2.2, 1.4.3 */}
        <p className={`m-0 pt-1 text-[12.5px] ${read < 4.5 || shine < 3 ? "text-persimmon" : "text-text-2"}`}>
          {read < 4.5 ? "hard to read" : shine < 3 ? "the light is hard to read" : "reads well"}: {read.toFixed(1)} to 1, light {shine.toFixed(1)} to 1
        </p>
      </Row>
      <Row label="Comes">
        <Few
          label="How a card comes"
          value={box.comes ?? "is hung"}
          of={["is hung", "drifts in", "is there", "rises with the tide", "swings round", "is lit"]}
          onPick={(comes) => set({ comes })}
        />
      </Row>
      <Row label="Goes">
        <Few label="How a card goes" value={box.goes ?? "is dimmed"} of={["is dimmed", "drifts off", "is gone"]} onPick={(goes) => set({ goes })} />
      </Row>
      <Row label="Stays">
        <span className="few">
          <Num label="A card stays so many seconds" value={box.seconds ?? 8} onChange={(n) => n && set({ seconds: n })} />
          <span className="sub">s, or as long as its film, if longer</span>
        </span>
      </Row>
      <Row label="Without">
        <span className="few">
          <Few
            label="What stands beside the words of people without media of their own"
            value={box.without ?? "theirs"}
            of={["theirs", "picture", "film", "lantern"]}
            words={{ theirs: "their picture there", picture: "our picture", film: "our film", lantern: "their lantern" }}
            onPick={(without) => ((without === "picture" && !box.picture) || (without === "film" && !box.film) ? undefined : set({ without }))}
          />
          <FromShelf label="Our picture" kind="picture" none="our picture…" value={box.picture} onPick={(picture) => set({ picture, without: picture ? "picture" : undefined })} />
          <FromShelf label="Our film" kind="film" none="our film…" value={box.film} onPick={(film) => set({ film, without: film ? "film" : undefined })} />
        </span>
      </Row>
    </>
  );
}
