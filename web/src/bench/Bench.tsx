import { Suspense, useCallback, useEffect, useRef, useState, type ComponentType } from "react";
import { Button } from "react-bootstrap";
import { useNavigate } from "react-router";
import type {
  BriefFacts,
  ControlSheet,
  Hit,
  ImportedAudio,
  SavedTrack,
  Stroke,
} from "../api/client";
import { HEARABLE, type Hearing } from "../audio/player";
import { BriefStep } from "../steps/brief/BriefStep";
import { DuckStep } from "../steps/duck/DuckStep";
import { STEPS, type StepId } from "../steps/steps";
import { TuneStep } from "../steps/tune/TuneStep";
import { DeskContext, type Audition, type Desk, type Trial } from "../track/context";
import type { Soon } from "../track/first";
import { mainDucking } from "../track/parts";
import { useTrack } from "../track/useTrack";
import { BeatWindow } from "./beat/BeatWindow";
import { CompareBar } from "./CompareBar";
import { Findings } from "./Findings";
import { Help } from "./Help";
import { Ladder } from "./Ladder";
import { HandoverStep, loadAll, LogStep, Long, RoomStep, SeparateStep, StockStep } from "./later";
import { Notices } from "./Notices";
import { PartStep } from "./PartStep";
import { PartStrip } from "./PartStrip";
import { Several } from "./Several";
import { StepsNav } from "./StepsNav";
import { TopBar } from "./TopBar";
import { Transport } from "./Transport";
import { useAddress } from "./useAddress";
import { useAtHand } from "./useAtHand";
import { useBack } from "./useBack";
import { useBringing } from "./useBringing";
import { sideHeard, useCompare } from "./useCompare";
import { useListening } from "./useListening";
import { useOutlet } from "./useOutlet";
import { useRoom, useRoomView, type InRoom } from "./useRoom";
import { useSay } from "./useSay";
import { useShortcuts } from "./useShortcuts";
import { useTrial } from "./useTrial";
import { useViews } from "./useViews";

const VIEWS: Record<StepId, ComponentType> = {
  brief: BriefStep,
  hits: PartStep,
  tune: TuneStep,
  line: PartStep,
  separate: SeparateStep,
  duck: DuckStep,
  room: RoomStep,
  handover: HandoverStep,
  log: LogStep,
  stock: StockStep,
};

/** What a step begins by listening to, until something else was chosen. */
const HEARD: Partial<Record<StepId, Hearing["part"]>> = {
  hits: "kick",
  tune: "kick",
  line: "bass",
};
const CAUTION_SEEN = "juglant-caution-seen";

interface Props {
  opened: SavedTrack;
  controls: Record<string, ControlSheet>;
  firstFacts: BriefFacts;
  step: StepId;
}

/** The gain that brings both sides of a comparison to the loudness of the quieter one. */
const matchOf =
  (trial: Trial | null, levels: Desk["answer"]["data"]) =>
  (ducked: boolean): number => {
    if (!levels) return 0;
    if (!trial) return ducked ? levels.level_after.match_db : levels.level_before.match_db;
    const { lufs_before, lufs_after } = trial.effect;
    return Math.min(lufs_before, lufs_after) - (trial.hearing ? lufs_after : lufs_before);
  };

/** Everything that is always there around a step, and the step. */
export function Bench({ opened, controls, firstFacts, step }: Props) {
  const soon: Soon = useRef(null);
  const desk = useTrack(opened, soon);
  const { state, track, saving } = desk;
  const go = useNavigate();
  const [message, say] = useSay();
  const place = useRoom(controls);
  const trying = useTrial(desk, place, say);
  const { trial } = trying;
  const [audition, setAudition] = useState<Audition | null>(null);
  // What is changed by hand ends it: the sound was tried in another state.
  useEffect(() => setAudition(null), [state, step]);
  const [barWish, setBar] = useState(0);
  const [moment, setMoment] = useState<number | null>(null);
  const [help, setHelp] = useState(false);
  const [caution, setCaution] = useState(false);
  const compare = useCompare(state);
  const side = sideHeard(compare);
  const other = (side === "b" ? compare.against : side === "a" ? compare.base : null)?.state;
  // In a blind test nothing that is seen may tell what is heard.
  const seen = compare.blind ? undefined : other;
  const shown = audition?.state ?? (trial?.hearing ? trial.effect.state : (seen ?? state));
  const heard = audition || trial?.hearing ? shown : (other ?? state);
  const bars = shown.brief.chord_roots.length;
  const bar = Math.min(barWish, bars - 1);
  const { asked, put } = useAddress();
  const hand = useAtHand(shown, step);
  const views = useViews(shown, hand.hit, bar, firstFacts);
  // A record is heard as it is, and so is the track beside it.
  const plain = compare.against?.record !== undefined;
  const inRoom: InRoom = {
    ...place,
    through: plain ? null : place.through,
    hear: (on) =>
      plain
        ? say(
            "A record is heard as it was made, and the track beside it: end the comparison first.",
          )
        : place.hear(on),
  };
  const outlet = useOutlet(track, say);
  const there = useRoomView(shown, inRoom, step);
  const { through } = inRoom;
  const gain = side && !trial && !audition ? (compare.gains?.[`${side}_db`] ?? 0) : null;
  const ducked = matchOf(trial, views.answer.data);
  const record = (side === "b" && !trial && !audition && compare.against?.record) || null;
  const listening = useListening(
    heard,
    gain === null ? ducked : () => gain,
    say,
    through,
    record,
    soon,
  );
  const { toggle, start, hear, hearing } = listening;
  const wish = HEARABLE.find((part) => part === asked.get("hear"));
  useEffect(() => hear({ part: wish ?? HEARD[step] ?? "both" }), [wish, step, hear]);
  const searched = hand.searchTo("stock");
  const tryThem = useCallback(
    (files: ImportedAudio[]) => {
      const dropped = files.map(({ audio, name }) => ({ audio, name }));
      if (files.length > 0) void go(`/tracks/${track.id}/stock${searched}`, { state: { dropped } });
    },
    [go, track.id, searched],
  );
  const bringing = useBringing(desk, controls, step, hand, say, tryThem);
  useBack(saving, say);

  const here = useRef<HTMLElement>(null);
  const was = useRef(step);
  // From a step that was chosen, its first control is a Tab away.
  useEffect(() => {
    const chosen = was.current !== step && !here.current?.contains(document.activeElement);
    if (chosen) here.current?.focus({ preventScroll: true });
    was.current = step;
  }, [step]);

  // What this screen shows goes first.
  const drawn = views.answer.data !== undefined;
  useEffect(() => {
    if (drawn) loadAll();
  }, [drawn]);

  /** What goes with its own button leaves the keyboard in the step. */
  const back =
    <Given extends unknown[]>(done: (...given: Given) => void) =>
    (...given: Given) => {
      done(...given);
      here.current?.focus({ preventScroll: true });
    };

  const warn = () => {
    if (localStorage.getItem(CAUTION_SEEN)) return;
    localStorage.setItem(CAUTION_SEEN, "yes");
    setCaution(true);
  };
  const firstPlay = (play: () => void) => () => {
    warn();
    play();
  };
  const play = firstPlay(toggle);
  const strike = (stroke?: Stroke, hit: Hit = hand.hit) =>
    firstPlay(() => listening.once(hit, stroke))();
  const to = (other: StepId) => `/tracks/${track.id}/${other}${hand.searchTo(other)}`;
  useShortcuts({
    " ": play,
    k: () => strike(),
    ...Object.fromEntries(STEPS.map(({ id }, n) => [String((n + 1) % 10), () => void go(to(id))])),
    o: () => inRoom.hear(through === null),
    "[": () => setBar((bar + bars - 1) % bars),
    "]": () => setBar((bar + 1) % bars),
    f: () => {
      const fix = document.querySelector<HTMLElement>(".fix-row button");
      (fix ?? document.querySelector<HTMLElement>(".findings"))?.focus();
    },
    "mod+z": desk.undo,
    "mod+shift+z": desk.redo,
    "mod+y": desk.redo,
    "mod+s": () => void go(to("log"), { state: { keep: true } }),
    "?": () => setHelp(true),
    escape: () => {
      trying.endTrial(false);
      setAudition(null);
      setCaution(false);
    },
  });

  const context: Desk = {
    ...desk,
    ...trying,
    ...views,
    outlet,
    compare,
    inRoom,
    there,
    shown,
    audition,
    setAudition,
    bar,
    setBar,
    moment,
    setMoment,
    controls,
    partId: hand.partId,
    choosePart: hand.choosePart,
    hitId: hand.hit.id,
    layerAt: hand.layerAt,
    chooseLayer: hand.chooseLayer,
    lineId: hand.lineId,
    listening: { ...listening, start: firstPlay(start) },
    warn,
    strike,
    bring: bringing.bring,
    setDropAs: bringing.setDropAs,
    say,
  };
  const View = VIEWS[step];
  return (
    <DeskContext.Provider value={context}>
      <div className={`bench at-${step}`}>
        <Button
          className="visually-hidden-focusable skip"
          variant="secondary"
          size="sm"
          onClick={() => here.current?.focus()}
        >
          To the step
        </Button>
        <TopBar step={step} onHelp={() => setHelp(true)} />
        <StepsNav to={to} />
        <main className="work">
          <h1 className="visually-hidden">{track.name}</h1>
          <Transport
            player={listening.player}
            playing={listening.playing}
            onPlay={play}
            onOnce={() => strike()}
            once={hand.hit.name}
            hearing={hearing}
            onHearing={(changes) => {
              hear(changes);
              if (changes.part) put("hear", changes.part);
            }}
            comparable={mainDucking(state).on && !trial && hearing.part !== "kick"}
          />
          <div className="centre">
            <PartStrip />
            <CompareBar />
            <BeatWindow alone={hand.isHit} player={listening.player} />
            <section
              ref={here}
              className="step"
              tabIndex={-1}
              aria-label={STEPS.find(({ id }) => id === step)?.name}
            >
              {bringing.several.length > 0 && (
                <Several
                  files={bringing.several}
                  onLeave={back(bringing.leave)}
                  onPut={back(bringing.putSeveral)}
                  onTry={bringing.trySeveral}
                />
              )}
              {bringing.long[0] && (
                <Suspense>
                  <Long
                    key={bringing.long.length}
                    {...bringing.long[0]}
                    onCut={back(bringing.cut)}
                    onLeave={back(bringing.leaveLong)}
                  />
                </Suspense>
              )}
              {/* A step that is yet to come leaves nothing of the old one behind, hidden and in focus. */}
              <Suspense key={View === PartStep ? "part" : step}>
                <View />
              </Suspense>
            </section>
          </div>
          <Ladder regions={hand.isHit} step={step} />
        </main>
        <Findings step={step} onHear={firstPlay(start)} />
        <Notices
          message={message}
          failure={views.answer.error ?? views.kick.error ?? views.hit.error}
          caution={caution}
          onUnderstood={() => setCaution(false)}
        />
        {bringing.hovering && <div className="drop-here">{bringing.hovering}</div>}
        <Help show={help} onHide={() => setHelp(false)} />
      </div>
    </DeskContext.Provider>
  );
}
