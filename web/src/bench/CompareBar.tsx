import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { judging } from "../api/judging";
import { BLIND_ROUNDS } from "../api/limits";
import { useDesk } from "../track/context";
import { decibels } from "./scale";
import { useShortcuts } from "./useShortcuts";
import "./compare.css";

/** What the key goes on to in a blind test. */
const NEXT_HEARD = { a: "b", b: "x", x: "a" } as const;

/** A and B at the same loudness, and blind: X is one of them. */
export function CompareBar() {
  const { compare, listening } = useDesk();
  const { against, hearing, gains, blind } = compare;
  const bar = useRef<HTMLElement>(null);
  const what = against?.label;
  // The keyboard stays where the comparison began; it comes here where that is gone, and for a blind test.
  const begun = useRef<HTMLElement | null>(null);
  const stage = blind === null ? "open" : blind.rights.length < BLIND_ROUNDS ? "blind" : "told";
  useEffect(() => {
    if (!what) return;
    const now = document.activeElement as HTMLElement | null;
    if (stage !== "open" || now === document.body) bar.current?.focus();
    else if (now && !bar.current?.contains(now)) begun.current = now;
  }, [what, stage]);
  const hear = (which: "a" | "b") => {
    compare.hear(which);
    listening.start();
  };
  useShortcuts(against && !blind ? { a: () => hear(hearing === "a" ? "b" : "a") } : {});
  if (!against) return null;
  return (
    <section className="compare" aria-label="A against B" tabIndex={-1} ref={bar}>
      {blind ? (
        <Blind />
      ) : (
        <>
          <ButtonGroup size="sm" aria-label="Which is heard">
            {(["a", "b"] as const).map((side) => (
              <Button
                key={side}
                variant={hearing === side ? "secondary" : "outline-secondary"}
                aria-pressed={hearing === side}
                title="A goes from one to the other"
                onClick={() => hear(side)}
              >
                {side === "a" ? `A ${compare.base?.label ?? "now"}` : `B ${against.label}`}
              </Button>
            ))}
          </ButtonGroup>
          <span className="match">
            {gains
              ? `A ${decibels(gains.a_db)}, B ${decibels(gains.b_db)}: equally loud`
              : "measuring how loud they are…"}
          </span>
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={!gains}
            title={`${BLIND_ROUNDS} rounds: X is one of them, and only your ears say which`}
            onClick={() => {
              compare.startBlind();
              listening.start();
            }}
          >
            Blind…
          </Button>
        </>
      )}
      <Button
        size="sm"
        variant="outline-secondary"
        aria-label="End the comparison"
        onClick={() => {
          const step = bar.current?.parentElement?.querySelector<HTMLElement>(".step");
          (begun.current?.isConnected ? begun.current : step)?.focus();
          compare.end();
        }}
      >
        ×
      </Button>
    </section>
  );
}

/** Rounds of X; the score and what it is worth at the end. */
function Blind() {
  const { compare, listening, track, say } = useDesk();
  const { against, blind } = compare;
  const rounds = blind?.rights.length ?? 0;
  const right = blind?.rights.filter(Boolean).length ?? 0;
  const over = rounds >= BLIND_ROUNDS;
  const score = useQuery({
    queryKey: ["score", right, rounds],
    queryFn: () => judging.score(right, rounds),
    enabled: over,
    staleTime: Infinity,
  });
  const queries = useQueryClient();
  const [written, setWritten] = useState(false);
  const said = over ? score.data?.said : undefined;
  const first = compare.base ? `“${compare.base.label}”` : "now";
  const line = said && `Blind, ${first} against “${against?.label}”: ${said}`;
  useEffect(() => {
    if (!line || written) return;
    setWritten(true);
    judging
      .addEntry(track.id, "blind", line)
      .then(() => queries.invalidateQueries({ queryKey: ["entries", track.id] }))
      .then(() => say("Written into the log."))
      .catch((error: Error) => say(error.message));
  }, [line, queries, say, track.id, written]);
  const hear = (which: "a" | "b" | "x") => {
    compare.hearBlind(which);
    listening.start();
  };
  useShortcuts(blind && !over ? { a: () => hear(NEXT_HEARD[blind.heard]) } : {});
  if (!blind) return null;
  if (over)
    return (
      <>
        <strong role="status">{said ?? "…"}</strong>
        <Button size="sm" variant="outline-secondary" onClick={compare.endBlind}>
          Done
        </Button>
      </>
    );
  return (
    <>
      <ButtonGroup size="sm" aria-label="Which is heard">
        {(["a", "b", "x"] as const).map((which) => (
          <Button
            key={which}
            variant={blind.heard === which ? "secondary" : "outline-secondary"}
            aria-pressed={blind.heard === which}
            onClick={() => hear(which)}
          >
            {which.toUpperCase()}
          </Button>
        ))}
      </ButtonGroup>
      <ButtonGroup size="sm" aria-label="What X is">
        {(["a", "b"] as const).map((which) => (
          <Button key={which} onClick={() => compare.answer(which)}>
            X is {which.toUpperCase()}
          </Button>
        ))}
      </ButtonGroup>
      <span role="status">
        round {rounds + 1} of {BLIND_ROUNDS}
      </span>
      <Button size="sm" variant="outline-secondary" onClick={compare.endBlind}>
        Give up
      </Button>
    </>
  );
}
