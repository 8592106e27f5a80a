import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { ToggleButton } from "../../bench/ToggleButton";
import { api, type Sound } from "../../api/client";
import { KINDS } from "../../api/limits";
import { Chooser } from "../../bench/Chooser";
import { Tabs } from "../../bench/Tabs";
import { useTab } from "../../bench/useAddress";
import { useDesk } from "../../track/context";
import { hitsOf, nameOf, partOf } from "../../track/parts";
import { AtHand } from "./AtHand";
import { Blind } from "./Blind";
import { Filed } from "./Filed";
import { Folders } from "./Folders";
import { NO_NUMBERS, RangesMenu, wishOf } from "./Ranges";
import { Sounds } from "./Sounds";
import { Weights } from "./Weights";
import { useDropped } from "./useDropped";
import { fileOf, ordered, useSounds, type Asked, type Order } from "./useSounds";
import "./stock.css";

const MOST_KEPT = 3;
const TABS = [
  ["sounds", "Sounds"],
  ["folders", "Folders"],
  ["filed", "Filed"],
] as const;
const TAB_IDS = TABS.map(([id]) => id);

/** Sounds of one's own: found by what the part at hand needs, tried in the running loop, taken. */
export function StockStep() {
  const { state, partId, change, say, audition, setAudition, listening } = useDesk();
  const [tab, setTab] = useTab(TAB_IDS);
  const [adding, setAdding] = useState(false);
  const goTo = (next: (typeof TAB_IDS)[number], toAdd = false) => {
    setAdding(toAdd);
    setTab(next);
  };
  const [order, setOrder] = useState<Order>("fit");
  const [words, setWords] = useState("");
  const [kind, setKind] = useState("");
  const [tuned, setTuned] = useState(true);
  const [weights, setWeights] = useState<Record<string, number>>({});
  const [turn, setTurn] = useState(0);
  const [like, setLike] = useState<string | null>(null);
  const [at, setAt] = useState<Sound | null>(null);
  const [kept, setKept] = useState<Sound[]>([]);
  const [blind, setBlind] = useState(false);
  const [marked, setMarked] = useState<Record<string, Partial<Sound>>>({});
  const [tag, setTag] = useState("");
  const [numbers, setNumbers] = useState(NO_NUMBERS);
  const told = useQuery({ queryKey: ["stock"], queryFn: api.stock });
  const part = partOf(state, partId);
  const played = part?.part === "line" && part.bass.kind === "played";
  const place = part?.part === "hit" || played;
  const here = place ? partId : (hitsOf(state)[0]?.id ?? partId);
  const { dropped, all } = useDropped();
  const count = told.data?.folders.reduce((sum, { sounds }) => sum + sounds, 0) ?? 0;
  const asked = useMemo<Asked>(
    () => ({
      order,
      part: here,
      weights,
      // The stock has grown: what fits may be another.
      turn: turn + count + (dropped?.measured ? 1 : 0),
      wish: {
        ...(dropped && { dropped: dropped.sounds.map(({ audio }) => audio) }),
        words,
        ...wishOf(numbers),
        ...(tag.trim() !== "" && { tags: [tag] }),
        ...(kind !== "" && { kind: kind as (typeof KINDS)[number] }),
        ...(order === "likeness" && like !== null && { like }),
      },
    }),
    [order, here, weights, turn, count, words, tag, kind, like, numbers, dropped],
  );
  const found = useSounds(state, asked);
  const sounds = useMemo(
    () =>
      ordered(found.sounds, found.fits).map((one) => ({
        ...one,
        ...marked[one.hash],
      })),
    [found.sounds, found.fits, marked],
  );
  const failed = (error: Error) => say(error.message);
  const hear = (sound: Sound, label: string) => {
    api
      .trySound(state, here, sound.hash, tuned)
      .then((tried) => {
        setAudition({ hash: sound.hash, label, state: tried.state });
        listening.start();
      })
      .catch(failed);
  };
  const walk = (sound: Sound) => {
    setAt(sound);
    hear(sound, fileOf(sound));
  };
  const take = () => {
    if (!audition) return;
    const { hash, label, state: now } = audition;
    api
      .takeSound(hash)
      .then(() => {
        change(() => now);
        setKept([]);
        say(`${label} is ${nameOf(state, here)} now. Undo takes it back.`);
      })
      .catch(failed);
  };
  const choose = (sound: Sound) => {
    setBlind(false);
    setAt(sound);
    say(`It is ${fileOf(sound)}. Take it, or go on.`);
    hear(sound, fileOf(sound));
  };
  const keep = () => {
    if (!at) return;
    setKept((old) =>
      old.some(({ hash }) => hash === at.hash)
        ? old.filter(({ hash }) => hash !== at.hash)
        : [...old, at].slice(-MOST_KEPT),
    );
  };
  const noted = (hash: string, changes: Partial<Sound>) =>
    setMarked((old) => ({ ...old, [hash]: { ...old[hash], ...changes } }));
  const star = (sound: Sound, stars: number) => {
    api
      .markSound(sound.hash, { stars, tags: sound.tags, comment: sound.comment })
      .then((mark) => noted(sound.hash, { stars: mark.stars ?? 0 }))
      .catch(failed);
  };
  const hand = sounds.find(({ hash }) => hash === at?.hash);
  const hit = part?.part === "hit" ? part : null;
  return (
    <div className="step-body stock">
      <Tabs label="What of the stock" name="stock" tabs={TABS} at={tab} onChoose={goTo} />
      {tab === "folders" && <Folders adding={adding} />}
      {tab === "filed" && <Filed hit={hit} />}
      <div className="stock-find" hidden={tab !== "sounds"}>
        <div className="stock-wish">
          <Chooser
            shown="sorted by"
            name="order"
            label="What comes first"
            options={[
              ["fit", `fit for ${nameOf(state, here)}`],
              ["likeness", "similarity"],
              ["name", "kind"],
            ]}
            value={order}
            onChoose={(next) => {
              if (next === "likeness") setLike(at?.hash ?? null);
              setOrder(next);
            }}
          />
          <input
            type="search"
            className="form-control form-control-sm"
            aria-label="Words of the name"
            placeholder="words of the name"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          <input
            type="search"
            className="form-control form-control-sm"
            aria-label="Tag"
            placeholder="tag"
            value={tag}
            onChange={(event) => setTag(event.target.value)}
          />
          <select
            className="form-select form-select-sm"
            aria-label="Kind"
            value={kind}
            onChange={(event) => setKind(event.target.value)}
          >
            <option value="">{order === "fit" ? "its kind" : "any kind"}</option>
            {KINDS.map((one) => (
              <option key={one} value={one}>
                {one} {told.data?.kinds[one] ?? 0}
              </option>
            ))}
          </select>
          <RangesMenu asked={numbers} onChange={setNumbers} />
          <ToggleButton
            id="stock-tuned"
            type="checkbox"
            size="sm"
            variant="outline-secondary"
            value="1"
            title="Moved to the nearest good note; off, as it is"
            checked={tuned}
            onChange={() => setTuned(!tuned)}
          >
            Tuned
          </ToggleButton>
          {order === "fit" && <Weights weights={weights} onChange={setWeights} />}
          {order === "fit" && (
            <Button size="sm" variant="outline-secondary" onClick={() => setTurn(turn + 1)}>
              Rank again
            </Button>
          )}
          {order === "likeness" && (
            <Button
              size="sm"
              variant="outline-secondary"
              disabled={!at}
              onClick={() => setLike(at?.hash ?? null)}
            >
              Like the selected one
            </Button>
          )}
          <span className="calm" role="status">
            {found.left > 0
              ? `${found.left} yet to be measured in the loop`
              : `${sounds.length} ${sounds.length === 1 ? "sound" : "sounds"}`}
          </span>
        </div>
        {found.error && <p role="alert">{found.error}</p>}
        {dropped && (
          <p>
            Of {dropped.sounds.length} dropped {dropped.sounds.length === 1 ? "file" : "files"}.{" "}
            <Button size="sm" variant="outline-secondary" onClick={all}>
              All of the stock
            </Button>
          </p>
        )}
        {!dropped && told.data?.folders.length === 0 && (
          <p className="calm">
            There is nothing in the stock yet.{" "}
            <Button size="sm" variant="outline-primary" onClick={() => goTo("folders", true)}>
              Add a folder of your own
            </Button>
          </p>
        )}
        {blind ? (
          <Blind sounds={kept} onHear={hear} onChoose={choose} onEnd={() => setBlind(false)} />
        ) : (
          <Sounds
            sounds={sounds}
            fits={found.fits}
            at={at?.hash ?? null}
            kept={kept.map(({ hash }) => hash)}
            onWalk={walk}
            onTake={take}
            onKeep={keep}
            onStars={star}
          />
        )}
        {hand && !blind && (
          <AtHand key={hand.hash} sound={hand} onMarked={(changes) => noted(hand.hash, changes)} />
        )}
        <div className="stock-take">
          <Button size="sm" disabled={!audition || blind} onClick={take}>
            Take it
          </Button>
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={!audition}
            onClick={() => setAudition(null)}
          >
            Back to the old sound
          </Button>
          <Button size="sm" variant="outline-secondary" disabled={!at || blind} onClick={keep}>
            {at && kept.some(({ hash }) => hash === at.hash) ? "Don’t keep" : "Keep"} <kbd>V</kbd>
          </Button>
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={kept.length < 2 || blind}
            onClick={() => setBlind(true)}
          >
            Compare {kept.length > 1 ? kept.length : ""} blind
          </Button>
          {audition && !blind && <span className="calm">hearing {audition.label}</span>}
        </div>
      </div>
    </div>
  );
}
