import { useState, type ReactNode } from "react";
import { Button } from "react-bootstrap";
import type { Move } from "../../api/client";
import { MOST_MOVES } from "../../api/limits";
import { useDesk } from "../../track/context";
import { editPart, type Part } from "../../track/parts";
import { opensByKey } from "../opensByKey";
import { MoveCurve } from "./MoveCurve";
import { type Movable, SHAPES, movables, moves, targetOf, withMove } from "./moving";

interface Props {
  part: Part;
  /** What stands before the moves. */
  children: ReactNode;
}

const nameOf = (one: Movable | undefined, move: Move) =>
  one ? `${one.group}: ${one.control.label.toLowerCase()}` : `${move.control} (not here)`;

/** The controls of a part that follow curves, the one at hand with its curve. */
export function MovesEditor({ part, children }: Props) {
  const { change, controls } = useDesk();
  const [wish, choose] = useState(0);
  const chosen = Math.min(wish, part.moves.length - 1);
  const move = part.moves[chosen];
  const all = movables(part, controls);
  const target = move && targetOf(part, move, all);
  const over = controls["move"]?.choices.find(({ name }) => name === "over");
  const free = all.filter((one) => !moves(part, one));
  const put = (changes: Partial<Move>) =>
    change(
      editPart(part.id, {
        moves: part.moves.map((one, n) => (n === chosen ? { ...one, ...changes } : one)),
      }),
    );
  const add = (index: number) => {
    const one = free[index];
    if (!one) return;
    change(editPart(part.id, withMove(part, one)));
    choose(part.moves.length);
  };
  return (
    <div className="moves">
      <div className="chain" role="group" aria-label="Controls that move">
        {children}
        {part.moves.map((one, n) => (
          <Button
            key={`${one.of} ${one.control}`}
            size="sm"
            variant={n === chosen ? "secondary" : "outline-secondary"}
            aria-pressed={n === chosen}
            onClick={() => choose(n)}
          >
            {nameOf(targetOf(part, one, all), one)}
          </Button>
        ))}
        <select
          className="form-select form-select-sm add-hit"
          aria-label="Move a control"
          onKeyDown={opensByKey}
          value=""
          disabled={part.moves.length >= MOST_MOVES || free.length === 0}
          onChange={(event) => event.target.value && add(Number(event.target.value))}
        >
          <option value="">+ move…</option>
          {[...new Set(free.map(({ group }) => group))].map((group) => (
            <optgroup key={group} label={group}>
              {free.map((one, n) =>
                one.group === group ? (
                  <option key={n} value={n}>
                    {one.control.label}
                  </option>
                ) : null,
              )}
            </optgroup>
          ))}
        </select>
      </div>
      {!move ? (
        <p className="calm">
          Nothing moves yet. A gain over 1/8 is a tremolo, one over the section eases a part in;
          pan, cut-offs and mixes can move too. Pitch and the shape’s controls are read where a
          stroke starts.
        </p>
      ) : (
        <>
          <div className="curve-tools">
            {over && (
              <label className="dial-choice" title={over.help}>
                {over.label}
                <select
                  className="form-select form-select-sm"
                  value={move.over}
                  onChange={(event) => put({ over: event.target.value as Move["over"] })}
                >
                  {over.options.map((option) => (
                    <option key={option}>{option}</option>
                  ))}
                </select>
              </label>
            )}
            {target && (
              <select
                className="form-select form-select-sm add-hit"
                aria-label="Begin from a shape"
                onKeyDown={opensByKey}
                value=""
                onChange={(event) =>
                  event.target.value &&
                  put({ points: SHAPES[Number(event.target.value)]![1](target) })
                }
              >
                <option value="">shape…</option>
                {SHAPES.map(([name], n) => (
                  <option key={name} value={n}>
                    {name}
                  </option>
                ))}
              </select>
            )}
            <Button
              size="sm"
              variant="outline-secondary"
              onClick={() =>
                change(editPart(part.id, { moves: part.moves.filter((_, n) => n !== chosen) }))
              }
            >
              Stop moving
            </Button>
          </div>
          {target ? (
            <MoveCurve
              key={`${move.of} ${move.control}`}
              move={move}
              control={target.control}
              onChange={(points) => put({ points })}
            />
          ) : (
            <p className="why">
              Its stage is not in this section: the move waits for it, and does nothing here.
            </p>
          )}
        </>
      )}
    </div>
  );
}
