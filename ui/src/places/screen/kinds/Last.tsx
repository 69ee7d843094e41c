import { Field } from "../../../kit/Field";
import { Few, Row, Type, type FormOf } from "./parts";

/** Last sets whose last one it is. */
export function Last({ box, set }: FormOf) {
  return (
    <>
      <Row label="The last">
        <Few
          label="The last one to do what"
          value={(box.what ?? "followers") as "followers"}
          of={["followers", "subscribers", "tippers", "raiders"] as const}
          words={{ followers: "to follow", subscribers: "to subscribe", tippers: "to tip", raiders: "to raid" }}
          onPick={(what) => set({ what })}
        />
      </Row>
      <Row label="Words">
        <Field size="xs" aria-label="Its words" defaultValue={box.label} maxLength={60} onBlur={(e) => set({ label: e.target.value.trim() || undefined })} />
      </Row>
      <Type box={box} set={set} usual={40} of="the name" />
    </>
  );
}
