// Writes core/wording/testdata/corpus.json: wordings with their arguments, and what an independent implementation of ICU
// MessageFormat makes of them. Run it by hand (node wordings.mjs) when a wording is added; locale data moves with Node.
import { writeFileSync } from "node:fs";
import { IntlMessageFormat } from "intl-messageformat";

const moments = ["2026-11-24T20:05:09Z", "2027-02-28T23:59:30Z", "2028-02-29T00:00:00Z", "2026-07-01T12:30:00Z"];
const zones = ["UTC", "Europe/Lisbon", "Europe/Stockholm", "America/New_York", "America/Los_Angeles", "Asia/Kolkata"];
const out = [];

function put(wording, args, zone = "UTC") {
  process.env.TZ = zone;
  const values = Object.fromEntries(Object.entries(args).map(([k, v]) => [k, typeof v === "object" ? new Date(v.moment) : v]));
  const want = new IntlMessageFormat(wording, "en", undefined, { ignoreTag: true }).format(values);
  out.push(zone === "UTC" ? { wording, args, want } : { wording, args, zone, want });
}

for (const [wording, args] of [
  ["Hello", {}],
  ["Evening, {name}!", { name: "limpet_lena" }],
  ["{name} and {name}, from {channel}", { name: "mossy_mare", channel: "tidepool_hours" }],
  ["It''s {name}''s hook", { name: "grebe" }],
  ["It's {name}'s hook", { name: "grebe" }],
  ["'{'name'}' is {name}", { name: "a brace {name}" }],
  ["'{name}' stays", { name: "x" }],
  ["'{name} '' {name}' {name}", { name: "x" }],
  ["don't '{'panic'}'", {}],
  ["a # outside is a #", {}],
  ["'#' outside", {}],
  ["{ name } has spaces", { name: "mothlight" }],
  ["🌊 {name} 🐚👩‍🔬", { name: "ottoline 🦀" }],
  ["<b>{name}</b> & <i>", { name: "<script>" }],
  ["a 'quote' stays", {}],
  ["''{name}''", { name: "x" }],
  ["'{''}' and {name}", { name: "x" }],
])
  put(wording, args);

const numbers = [0, 1, 2, 3, 4, 5, 10, 11, 12, 13, 21, 22, 23, 100, 101, 111, 112, 121, 999, 1000, 1234567, -1, -5, -1234, 0.5, 1.5, 2.25, 12.3456, 1234.5, 0.125, 99.995];
for (const n of numbers) {
  put("{n}", { n });
  put("{n, number}", { n });
  put("{n, number, integer} of them", { n });
  put("{n, number, percent}", { n: n / 100 });
  for (const c of ["EUR", "USD", "SEK", "JPY"]) put(`{n, number, ::currency/${c}}`, { n });
}
for (const n of numbers.filter(Number.isInteger)) {
  put("{n, plural, =0 {nobody} one {# lantern} other {# lanterns}}", { n });
  put("{n, selectordinal, one {#st} two {#nd} few {#rd} other {#th}} stream", { n });
  put("{n, plural, offset:1 =0 {nobody} =1 {{who}} one {{who} and # more} other {{who} and # more}}", { n, who: "tidewrack" });
}
for (const who of ["she", "they", "nobody we know", ""]) {
  put("{who, select, she {her} he {his} other {their}} hook", { who });
  for (const n of [0, 1, 2, 21, 1500])
    put(
      "{who, select, she {{n, plural, =0 {she waits} one {she has # crab} other {she has # crabs, not '#'}}} other {{n, plural, one {one '{'crab'}'} other {{n, number} crabs; {n, selectordinal, one {#st} two {#nd} few {#rd} other {#th}}}}}}",
      { who, n },
    );
}
put("{a, plural, one {{b, plural, one {# and #} other {#, {a} and #}}} other {{b, plural, one {#} other {{a, number} by #}}}}", { a: 2, b: 3 });
put("{a, plural, one {{b, plural, one {# and #} other {#, {a} and #}}} other {{b, plural, one {#} other {{a, number} by #}}}}", { a: 1, b: 1000 });
put("{a, plural, other {{s, select, x {# x} other {# o}}}}", { a: 4, s: "x" });
put("{a, plural, other {'#' is #, it''s '{#}'}}", { a: 7 });
for (const moment of moments)
  for (const zone of zones)
    for (const style of ["short", "medium", "long", "full"]) {
      put(`{d, date, ${style}}`, { d: { moment } }, zone);
      put(`{d, time, ${style}}`, { d: { moment } }, zone);
    }
for (const moment of moments) {
  put("on {d, date} at {d, time}", { d: { moment } }, "Europe/Lisbon");
  put("{n, plural, one {since {d, date, long}} other {# times since {d, date, long}, at {d, time, short}}}", { n: 3, d: { moment } }, "America/New_York");
}

writeFileSync(new URL("../core/wording/testdata/corpus.json", import.meta.url), "[\n" + out.map((x) => "  " + JSON.stringify(x)).join(",\n") + "\n]\n");
console.log(`${out.length} wordings`);
