/** Grams a square metre as people write them; null where nothing was written, a sentence where it is no weight. */
export function readWeight(text: string): number | null {
  const plain = text.trim().replace(/\s*(g|gsm|g\/m²|g\/m2)$/i, "");
  if (plain === "") return null;
  const grams = Number(plain.replace(",", "."));
  if (!Number.isFinite(grams) || grams < 10 || grams > 2000)
    throw new Error(`The weight ${text} is no number of grams a square metre; write it as 300.`);
  return Math.round(grams);
}
