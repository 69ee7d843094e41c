// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import type { BookSheet } from "../api/client";
import { crews, imports } from "../api/queries";
import { ByHand } from "./ByHand";

afterEach(cleanup);

const sheet = (hand: object) => ({ hand, row: { crews: [], tags: [] }, birthday: "", birthdayIn: 0 }) as unknown as BookSheet;

function open(save = vi.fn().mockResolvedValue({ what: "saved" })) {
  const client = new QueryClient();
  client.setQueryData(crews.queryKey, { crews: [], emblems: [], combinations: [] });
  client.setQueryData(imports.queryKey, { imports: [], tags: [] });
  const page = (hand: object) => (
    <QueryClientProvider client={client}>
      <ByHand s={sheet(hand)} save={save} />
    </QueryClientProvider>
  );
  const { rerender } = render(page({ pronouns: "she/her" }));
  return { save, comesIn: (hand: object) => rerender(page(hand)) };
}

const field = (name: string) => screen.getByRole<HTMLInputElement>("textbox", { name });
const write = (name: string, text: string) => fireEvent.input(field(name), { target: { value: text } });

test("a field is saved as it is left, alone", async () => {
  const { save } = open();
  write("Birthday", "12 March");
  expect(save).not.toHaveBeenCalled();
  fireEvent.blur(field("Birthday"));
  await waitFor(() => expect(save).toHaveBeenCalledExactlyOnceWith({ set: { birthday: "12 March" } }));
});

test("a field that is left as it was saves nothing", async () => {
  const { save } = open();
  fireEvent.focus(field("Pronouns"));
  fireEvent.blur(field("Pronouns"));
  write("Note", "prints");
  write("Note", "");
  fireEvent.blur(field("Note"));
  await new Promise((r) => setTimeout(r, 20));
  expect(save).not.toHaveBeenCalled();
});

test("Escape takes back what was written", async () => {
  const { save } = open();
  write("Pronouns", "they/them");
  fireEvent.keyDown(field("Pronouns"), { key: "Escape" });
  expect(field("Pronouns").value).toBe("she/her");
  fireEvent.blur(field("Pronouns"));
  await new Promise((r) => setTimeout(r, 20));
  expect(save).not.toHaveBeenCalled();
});

test("what the house does not take goes back to what stands", async () => {
  const { save } = open(vi.fn().mockResolvedValue(undefined));
  write("Birthday", "31 February");
  fireEvent.blur(field("Birthday"));
  await waitFor(() => expect(save).toHaveBeenCalled());
  await waitFor(() => expect(field("Birthday").value).toBe(""));
});

test("what is being written stays when something else comes in, and all else shows", async () => {
  const { comesIn } = open();
  write("Note", "prints on Fri");
  comesIn({ pronouns: "she/they", note: "", trusted: true });
  await waitFor(() => expect(field("Pronouns").value).toBe("she/they"));
  expect(field("Note").value).toBe("prints on Fri");
  expect(screen.getByRole<HTMLInputElement>("checkbox", { name: "trusted" }).checked).toBe(true);
});

test("a tick is saved at once", async () => {
  const { save } = open();
  fireEvent.click(screen.getByRole("checkbox", { name: "leave me be" }));
  expect(save).toHaveBeenCalledExactlyOnceWith({ set: { leaveBe: true } });
});
