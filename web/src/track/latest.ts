import { useEffect, useRef, useState } from "react";
import { AGAIN_MS, isAway } from "../api/client";
import { afterSound } from "./first";

/**
 * Asks one question at a time and drops all but the latest wish in between, so that a dragged
 * slider never queues up requests and the picture always ends where the hand did.
 */
export class Latest<Q, A> {
  private wanted: Q | null = null;
  private running = false;

  constructor(
    private readonly fetch: (question: Q) => Promise<A>,
    private readonly done: (answer: A, question: Q) => void,
    private readonly failed: (error: unknown, question: Q) => void,
  ) {}

  ask(question: Q): void {
    this.wanted = question;
    if (!this.running) void this.run();
  }

  private async run(): Promise<void> {
    this.running = true;
    while (this.wanted !== null) {
      const question = this.wanted;
      this.wanted = null;
      try {
        this.done(await this.fetch(question), question);
      } catch (error) {
        this.failed(error, question);
      }
    }
    this.running = false;
  }
}

export interface Latestly<A> {
  data: A | null;
  error: Error | null;
  /** The data belongs to an earlier question: show it, dimmed. */
  stale: boolean;
}

/**
 * The answer to the latest question; while one is on its way the old answer stays, and is stale. A server that is
 * away is asked again until it answers. Sound that is on its way goes first.
 */
export function useLatest<Q, A>(question: Q | null, fetch: (q: Q) => Promise<A>): Latestly<A> {
  const [state, setState] = useState<{ data: A | null; error: Error | null; of: Q | null }>({
    data: null,
    error: null,
    of: null,
  });
  const asker = useRef<Latest<Q, A> | null>(null);
  const again = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  useEffect(() => {
    if (question === null) return;
    const current = (asker.current ??= new Latest<Q, A>(
      (one) => afterSound().then(() => fetch(one)),
      (data, of) => setState({ data, error: null, of }),
      (error, of) => {
        const away = isAway(error);
        setState((old) => ({ ...old, error: error as Error, of: away ? old.of : of }));
        clearTimeout(again.current);
        if (away) again.current = setTimeout(() => asker.current?.ask(of), AGAIN_MS);
      },
    ));
    clearTimeout(again.current);
    current.ask(question);
    return () => clearTimeout(again.current);
  }, [question, fetch]);
  return { data: state.data, error: state.error, stale: state.of !== question };
}
