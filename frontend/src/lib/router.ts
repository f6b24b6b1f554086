import { createRouter, searchParams } from "sv-router";
import Bench from "../rooms/Bench.svelte";

/** The rooms in the order of the work. The router is wrapped here so that it can be changed in one place. */
export const { p, navigate, isActive, route } = createRouter({
  "/": Bench,
  "/ask": () => import("../rooms/ask/Questions.svelte"),
  "/ask/new/:question": () => import("../rooms/ask/NewSession.svelte"),
  "/ask/:session": () => import("../rooms/ask/EditSession.svelte"),
  "/card": () => import("../rooms/card/CardIndex.svelte"),
  "/card/:card": () => import("../rooms/card/CardRoom.svelte"),
  "/card/:card/sheet": () => import("../rooms/card/LooseSheetRoom.svelte"),
  "/paint": () => import("../rooms/paint/PaintIndex.svelte"),
  "/paint/:card": () => import("../rooms/paint/PaintingRoom.svelte"),
  "/capture": () => import("../rooms/capture/InboxRoom.svelte"),
  "/capture/:card": () => import("../rooms/capture/CaptureRoom.svelte"),
  "/look": () => import("../rooms/look/LookIndex.svelte"),
  "/look/:capture": () => import("../rooms/look/LookRoom.svelte"),
  "/compare": () => import("../rooms/compare/CompareRoom.svelte"),
  "/compare/:session": () => import("../rooms/compare/AnswerRoom.svelte"),
  "/library": () => import("../rooms/library/LibraryRoom.svelte"),
  "/library/spreadsheet": () => import("../rooms/library/SpreadsheetRoom.svelte"),
  "/library/:paint": () => import("../rooms/library/PaintRoom.svelte"),
  "/people": () => import("../rooms/people/PeopleRoom.svelte"),
  "*notfound": () => import("../rooms/NotFound.svelte"),
});

export const rooms = [
  { id: "ask", title: "Ask", path: "/ask" },
  { id: "card", title: "Card", path: "/card" },
  { id: "paint", title: "Paint", path: "/paint" },
  { id: "capture", title: "Capture", path: "/capture" },
  { id: "look", title: "Look", path: "/look" },
  { id: "compare", title: "Compare", path: "/compare" },
] as const;

/** A view's own settings in the address, so that a reload or a shared link shows the same. */
export function fromAddress(name: string): string | null {
  const value = searchParams.get(name);
  return value === null ? null : String(value);
}

/** Puts a setting into the address without a step in the history; an empty one is taken out. */
export function toAddress(name: string, value: string | null): void {
  if (value === null || value === "") searchParams.delete(name, undefined, { replace: true });
  else searchParams.set(name, value, { replace: true });
}
