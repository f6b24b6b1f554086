import { createRouter } from "sv-router";
import Bench from "../rooms/Bench.svelte";

/** The rooms in the order of the work. The router is wrapped here so that it can be changed in one place. */
export const { p, navigate, isActive, route } = createRouter({
  "/": Bench,
  "/ask": () => import("../rooms/ask/NewSession.svelte"),
  "/ask/:session": () => import("../rooms/ask/EditSession.svelte"),
  "/card": () => import("../rooms/card/CardIndex.svelte"),
  "/card/:card": () => import("../rooms/card/CardRoom.svelte"),
  "/capture": () => import("../rooms/capture/CaptureIndex.svelte"),
  "/capture/:card": () => import("../rooms/capture/CaptureRoom.svelte"),
  "/look": () => import("../rooms/look/LookIndex.svelte"),
  "/look/:capture": () => import("../rooms/look/LookRoom.svelte"),
  "/paint": () => import("../rooms/paint/PaintIndex.svelte"),
  "/paint/:paint": () => import("../rooms/paint/PaintRoom.svelte"),
  "/compare": () => import("../rooms/compare/CompareRoom.svelte"),
  "*notfound": () => import("../rooms/NotFound.svelte"),
});

export const rooms = [
  { id: "ask", title: "Ask", path: "/ask" },
  { id: "card", title: "Card", path: "/card" },
  { id: "capture", title: "Capture", path: "/capture" },
  { id: "look", title: "Look", path: "/look" },
  { id: "paint", title: "Paint", path: "/paint" },
  { id: "compare", title: "Compare", path: "/compare" },
] as const;
