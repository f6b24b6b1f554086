/** L*, a*, b* as three numbers, however they are parted; throws a sentence for anything else. */
export function readLab(text: string): [number, number, number] {
  const numbers = text
    .split(/[;\s]+/)
    .filter(Boolean)
    .map((n) => Number(n.replace(",", ".")));
  const [lightness, a, b] = numbers;
  if (
    numbers.length !== 3 ||
    numbers.some(Number.isNaN) ||
    lightness === undefined ||
    a === undefined ||
    b === undefined
  )
    throw new Error("A colour is three numbers, L* a* b*, such as 30 20 -50.");
  return [lightness, a, b];
}
