/** Every key that the application listens to, as shown with `?`. */
export const keys = [
  { press: "0", does: "The bench: what waits where" },
  { press: "1 … 6", does: "The rooms, in the order of the work; 9 is the library" },
  { press: "/", does: "Search everything that was written" },
  { press: "Tab", does: "Next control; zones and paints can all be reached" },
  { press: "Ctrl Z", does: "Take back the last change (Ask and Card)" },
  { press: "Ctrl Y", does: "Make it again" },
  { press: "Alt ↑ ↓", does: "Move the focused paint in its order" },
  { press: "d  b  n", does: "Paint: step done, back, write a note; q w e r t y name a mishap" },
  { press: "← → ↑ ↓", does: "Card, moving zones: by half a millimetre; with Shift the size" },
  { press: "← → ↑ ↓", does: "Look: move the card; + and − to zoom, h for the whole card" },
  { press: "[ ]", does: "Look: the zone before, the zone after" },
  { press: "?", does: "This list" },
] as const;

/** Whether the event is typing in a field or a list of choices, where single keys belong to the text. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null;
  if (target === null) return false;
  if (target.isContentEditable || target.closest('[role="combobox"], [role="listbox"]')) return true;
  if (target.tagName === "INPUT") return !/^(checkbox|radio)$/.test((target as HTMLInputElement).type);
  return /^(TEXTAREA|SELECT)$/.test(target.tagName);
}
