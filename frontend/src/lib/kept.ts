/** What is being typed and not yet sent stays in this browser, so that a reload or a crash loses nothing. */
const place = (name: string) => `gelvet-kept-${name}`;

export function keep(name: string, value: unknown): void {
  localStorage.setItem(place(name), JSON.stringify(value));
}

export function forget(name: string): void {
  localStorage.removeItem(place(name));
}

/** What was kept under a name; null where nothing was, or where `fits` says that it is of another make. */
export function kept<T>(name: string, fits: (value: unknown) => value is T): T | null {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(place(name)) ?? "null");
    return fits(found) ? found : null;
  } catch {
    return null;
  }
}

export const isText = (value: unknown): value is string => typeof value === "string";
