import { useQueryClient } from "@tanstack/svelte-query";

/** Changes asked of the server: the sentence when one is refused, and the data that it makes stale. */
export class Attempt {
  problem = $state("");
  readonly #queries = useQueryClient();

  /** Runs `action`; true where it was done. What `stale` names is asked for anew either way: it may explain a refusal. */
  async run(action: () => Promise<unknown>, ...stale: string[]): Promise<boolean> {
    this.problem = "";
    try {
      await action();
    } catch (refusal) {
      this.problem = (refusal as Error).message;
    }
    for (const key of stale) {
      // A first answer still under way may have been read before the change, and would not be asked for anew.
      await this.#queries.cancelQueries({ queryKey: [key] });
      await this.#queries.invalidateQueries({ queryKey: [key] });
    }
    return this.problem === "";
  }
}
