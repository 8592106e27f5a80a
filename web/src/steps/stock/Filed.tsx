import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type FiledView, type Hit } from "../../api/client";
import { withChain } from "../../bench/moves/moving";
import { save } from "../../bench/save";
import { useDesk } from "../../track/context";
import { editHit, freeName, newId, withPart } from "../../track/parts";

/** What of a filed hit takes the place of another's: its sound, not when it is played. */
const soundOf = ({ layers, chain, velocity, vary, aim, heard_hz, level_db }: Hit) => ({
  layers,
  chain,
  velocity,
  vary,
  aim,
  heard_hz,
  level_db,
});

/** Finished hits, chains and patterns of one's own, for any track. */
export function Filed({ hit }: { hit: Hit | null }) {
  const { shown, change, say } = useDesk();
  const queries = useQueryClient();
  const { data = [] } = useQuery({ queryKey: ["filed"], queryFn: api.filed });
  const again = () => void queries.invalidateQueries({ queryKey: ["filed"] });
  const failed = (error: Error) => say(error.message);
  const file = (what: FiledView["what"]) => {
    if (!hit) return;
    void api
      .fileHit(what, hit)
      .then(() => {
        say(`${hit.name} is filed${what === "hit" ? "" : `: its ${what}`}.`);
        again();
      })
      .catch(failed);
  };
  const [wish, setChosen] = useState<number[]>([]);
  const hits = data.filter(({ hit }) => hit).map(({ id }) => id);
  // What was taken out meanwhile is chosen no more.
  const chosen = wish.filter((id) => hits.includes(id));
  const kit = () => {
    void api
      .filedKit({ name: "Kit", bpm: shown.brief.bpm, ids: chosen })
      .then((zip) => save(zip, "kit.zip"))
      .catch(failed);
  };
  const take = (one: FiledView) => {
    if (!hit) return;
    if (one.hit) change(editHit(hit.id, (old) => ({ ...old, ...soundOf(one.hit as Hit) })));
    else if (one.chain)
      change(editHit(hit.id, (old) => ({ ...old, ...withChain(old, "chain", one.chain ?? []) })));
    else if (one.pattern) change(editHit(hit.id, (old) => ({ ...old, ...one.pattern })));
    say(`${one.name} is in ${hit.name} now. Undo takes it back.`);
  };
  return (
    <section className="stock-filed" aria-label="Filed">
      {hit && (
        <div className="stock-file">
          <span>File {hit.name}:</span>
          <Button size="sm" variant="outline-primary" onClick={() => file("hit")}>
            whole
          </Button>
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={hit.chain.length === 0}
            onClick={() => file("chain")}
          >
            its chain
          </Button>
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={hit.steps.length === 0}
            onClick={() => file("pattern")}
          >
            its pattern
          </Button>
        </div>
      )}
      {hits.length > 0 && (
        <div className="stock-file">
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={() => setChosen(chosen.length < hits.length ? hits : [])}
          >
            {chosen.length < hits.length ? "All hits" : "None"}
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            aria-disabled={chosen.length === 0}
            title="One-shots on keys with a map, as a ZIP"
            onClick={() => chosen.length > 0 && kit()}
          >
            Kit of the {chosen.length} chosen
          </Button>
        </div>
      )}
      <ul>
        {data.map((one) => (
          <li key={one.id}>
            {one.hit && (
              <input
                type="checkbox"
                className="form-check-input"
                aria-label={`${one.name} into the kit`}
                checked={chosen.includes(one.id)}
                onChange={() =>
                  setChosen((old) =>
                    old.includes(one.id) ? old.filter((id) => id !== one.id) : [...old, one.id],
                  )
                }
              />
            )}
            <span>
              <b>{one.name}</b> {one.what === "hit" ? one.kind : one.what}
            </span>
            {hit && (
              <Button
                size="sm"
                variant="outline-secondary"
                aria-label={`Put ${one.name}, ${one.what}, into ${hit.name}`}
                onClick={() => take(one)}
              >
                into {hit.name}
              </Button>
            )}
            {one.hit && (
              <Button
                size="sm"
                variant="outline-secondary"
                aria-label={`Add ${one.name} as a part`}
                onClick={() => {
                  const hit = one.hit as Hit;
                  change((old) =>
                    withPart({ ...hit, id: newId(), name: freeName(old, hit.name) })(old),
                  );
                  say(`${one.name} is a part of the track now.`);
                }}
              >
                as a part
              </Button>
            )}
            <Button
              size="sm"
              variant="outline-secondary"
              aria-label={`Take ${one.name}, ${one.what}, out of the file`}
              onClick={() => void api.dropFiled(one.id).then(again).catch(failed)}
            >
              ×
            </Button>
          </li>
        ))}
      </ul>
      {data.length === 0 && (
        <p className="calm">Finished hits are kept here whole, for every track.</p>
      )}
    </section>
  );
}
