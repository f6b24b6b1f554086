import { useQueryClient, type QueryKey } from "@tanstack/svelte-query";

/** Changes asked of the server: the sentence when one is refused, and the data that it makes stale. */
export class Attempt {
  problem = $state("");
  readonly #queries = useQueryClient();

  #running: Promise<unknown> = Promise.resolve();

  /** When everything that was asked for is done and known: until then a view may show what was there before. */
  async settled(): Promise<void> {
    await this.#running;
  }

  /** Shows what the server answered; an older answer still under way would put back what was there before. */
  async put(key: QueryKey, data: unknown): Promise<void> {
    await this.#queries.cancelQueries({ queryKey: key });
    this.#queries.setQueryData(key, data);
  }

  /**
   * Runs `action`; true where it was done. What `stale` names is asked for anew either way: it may explain a refusal.
   * One comes after the other: a second try that did not wait for this would be made on what was just refused.
   */
  run(action: () => Promise<unknown>, ...stale: string[]): Promise<boolean> {
    const done = this.#running.then(() => this.#run(action, stale));
    this.#running = Promise.allSettled([done]);
    return done;
  }

  async #run(action: () => Promise<unknown>, stale: string[]): Promise<boolean> {
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
