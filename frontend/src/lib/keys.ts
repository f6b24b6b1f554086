/** Every key that the application listens to, as shown with `?`. */
export const keys = [
  { press: "0", does: "The bench: what waits where" },
  { press: "1 … 6", does: "The rooms, in the order of the work" },
  { press: "Tab", does: "Next control; zones and paints can all be reached" },
  { press: "Ctrl Z", does: "Take back the last change (Ask and Card)" },
  { press: "Ctrl Y", does: "Make it again" },
  { press: "Alt ↑ ↓", does: "Move the focused paint in its order" },
  { press: "← → ↑ ↓", does: "Look: move the card; + and − to zoom, h for the whole card" },
  { press: "[ ]", does: "Look: the zone before, the zone after" },
  { press: "?", does: "This list" },
] as const;

/** Whether the event is typing in a field, where single keys belong to the text. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null;
  return target !== null && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
}
