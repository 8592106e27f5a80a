import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState, type ComponentType } from "react";
import { Button } from "react-bootstrap";
import { Navigate, NavLink, useNavigate, useParams } from "react-router";
import {
  api,
  type Brief,
  type BriefFacts,
  type ControlSheet,
  type Finding,
  type Hit,
  type ImportedAudio,
  type SavedTrack,
  type Stroke,
  type TrackState,
} from "../api/client";
import type { Hearing } from "../audio/player";
import { BriefStep } from "../steps/brief/BriefStep";
import { DuckStep } from "../steps/duck/DuckStep";
import { HandoverStep } from "../steps/handover/HandoverStep";
import { SeparateStep } from "../steps/separate/SeparateStep";
import { LogStep } from "../steps/log/LogStep";
import { TuneStep } from "../steps/tune/TuneStep";
import { ALONE, isStep, STEPS, type StepId } from "../steps/steps";
import { dropsAs, put, putMany, type Brought } from "../track/brought";
import { DeskContext, type Desk, type Trial } from "../track/context";
import { hitOf, kickOf, mainDucking, partOf, voiceOf } from "../track/parts";
import { useLatest } from "../track/latest";
import { useTrack } from "../track/useTrack";
import { BeatWindow } from "./beat/BeatWindow";
import { Findings } from "./Findings";
import { Caution, Help } from "./Help";
import { Ladder } from "./Ladder";
import { PartStep } from "./PartStep";
import { Several } from "./Several";
import { rememberTrack } from "./Start";
import { TopBar } from "./TopBar";
import { Transport } from "./Transport";
import { useDrop } from "./useDrop";
import { useBack } from "./useBack";
import { useListening } from "./useListening";
import { useShortcuts } from "./useShortcuts";

const VIEWS: Record<StepId, ComponentType> = {
  brief: BriefStep,
  hits: PartStep,
  tune: TuneStep,
  line: PartStep,
  separate: SeparateStep,
  duck: DuckStep,
  handover: HandoverStep,
  log: LogStep,
};

/** What a step begins by listening to. */
const HEARD: Partial<Record<StepId, Hearing["part"]>> = {
  hits: "kick",
  tune: "kick",
  line: "bass",
};
const CAUTION_SEEN = "juglant-caution-seen";

/** One track, at one step. */
export function TrackPage() {
  const { id, step } = useParams();
  const number = Number(id);
  const opened = useQuery({
    queryKey: ["track", number],
    queryFn: () => api.open(number),
    staleTime: 0,
    gcTime: 0,
  });
  const controls = useQuery({ queryKey: ["controls"], queryFn: api.controls, staleTime: Infinity });
  const facts = useQuery({
    queryKey: ["first facts", number],
    queryFn: () => api.facts((opened.data as SavedTrack).state.brief),
    enabled: opened.data !== undefined,
    staleTime: Infinity,
    gcTime: 0,
  });
  useEffect(() => {
    if (opened.data) rememberTrack(opened.data.id);
  }, [opened.data]);
  const error = opened.error ?? controls.error ?? facts.error;
  if (error)
    return (
      <main className="start">
        <h1>Juglant</h1>
        <p role="alert">{error.message}</p>
        <NavLink to="/">To the tracks</NavLink>
      </main>
    );
  if (!isStep(step)) return <Navigate to={`/tracks/${id}/hits`} replace />;
  if (!opened.data || !controls.data || !facts.data) return null;
  return (
    <Bench
      key={opened.data.id}
      opened={opened.data}
      controls={controls.data}
      firstFacts={facts.data}
      step={step}
    />
  );
}

interface BenchProps {
  opened: SavedTrack;
  controls: Record<string, ControlSheet>;
  firstFacts: BriefFacts;
  step: StepId;
}

interface HitQuestion {
  brief: Brief;
  hit: Hit;
}
interface AnswerQuestion {
  state: TrackState;
  bar: number;
}
const askFacts = (brief: Brief) => api.facts(brief);
const askHit = ({ brief, hit }: HitQuestion) => api.viewHit(brief, hit);
const askAnswer = ({ state, bar }: AnswerQuestion) => api.answer(state, bar);

function Bench({ opened, controls, firstFacts, step }: BenchProps) {
  const desk = useTrack(opened);
  const { state, change, track, saving, trouble } = desk;
  const go = useNavigate();
  const [trial, setTrial] = useState<Trial | null>(null);
  const [barWish, setBar] = useState(0);
  const [moment, setMoment] = useState<number | null>(null);
  const [message, setMessage] = useState<string | null>(null);
  const [help, setHelp] = useState(false);
  const [caution, setCaution] = useState(false);
  const say = useCallback((text: string) => setMessage(text), []);
  useEffect(() => {
    if (message === null) return;
    const timer = window.setTimeout(() => setMessage(null), 6000);
    return () => window.clearTimeout(timer);
  }, [message]);

  const shown = trial?.hearing ? trial.effect.state : state;
  const shownKick = kickOf(shown);
  const { brief: shownBrief } = shown;
  const bar = Math.min(barWish, shownBrief.chord_roots.length - 1);
  const facts = useLatest(shownBrief, askFacts).data ?? firstFacts;
  const [hitWish, chooseHit] = useState("");
  const [lineWish, chooseLine] = useState("");
  const [layerWish, chooseLayer] = useState(0);
  const [partWish, setPart] = useState({ step, id: "" });
  const wished = partWish.step === step ? partOf(shown, partWish.id) : undefined;
  const choosing = step === "hits" || step === "tune" || wished?.part === "hit";
  const atHand = choosing ? hitOf(shown, wished?.part === "hit" ? wished.id : hitWish) : shownKick;
  const lineId = voiceOf(shown, wished?.part === "line" ? wished.id : lineWish).id;
  const hitId = atHand.id;
  const partId = wished?.id ?? (step === "line" ? lineId : hitId);
  const choosePart = useCallback((id: string) => setPart({ step, id }), [step]);
  // A hit or a line that was at hand stays so in the other steps.
  useEffect(() => {
    if (wished?.part === "hit") chooseHit(wished.id);
    if (wished?.part === "line") chooseLine(wished.id);
  }, [wished?.id, wished?.part]);
  const layerAt = Math.min(layerWish, atHand.layers.length - 1);
  const kick = useLatest(
    useMemo(() => ({ hit: shownKick, brief: shownBrief }), [shownKick, shownBrief]),
    askHit,
  );
  const other = useLatest(
    useMemo(
      () => (atHand === shownKick ? null : { hit: atHand, brief: shownBrief }),
      [atHand, shownKick, shownBrief],
    ),
    askHit,
  );
  const answer = useLatest(
    useMemo(() => ({ state: shown, bar }), [shown, bar]),
    askAnswer,
  );

  const levels = answer.data;
  const matchDb = (ducked: boolean) => {
    if (!levels) return 0;
    if (trial) {
      const { lufs_before, lufs_after } = trial.effect;
      return Math.min(lufs_before, lufs_after) - (trial.hearing ? lufs_after : lufs_before);
    }
    return ducked ? levels.level_after.match_db : levels.level_before.match_db;
  };
  const listening = useListening(shown, matchDb, say);
  const { toggle, start, hear, hearing } = listening;
  useEffect(() => hear({ part: HEARD[step] ?? "both" }), [step, hear]);

  const tryFix = useCallback(
    (finding: Finding, way: string) => {
      const label = finding.fixes[way] ?? "";
      api
        .tryFix(finding.id, way, state)
        .then((effect) => setTrial({ finding, label, effect, hearing: true }))
        .catch((error: Error) => say(error.message));
    },
    [say, state],
  );
  const hearTrial = useCallback(
    (heard: boolean) => setTrial((old) => (old ? { ...old, hearing: heard } : old)),
    [],
  );
  const endTrial = useCallback(
    (take: boolean) => {
      if (take && trial) {
        change(() => trial.effect.state);
        say("Taken. Undo brings back what was.");
      }
      setTrial(null);
    },
    [change, say, trial],
  );
  // What is changed by hand ends a trial: the fix was made for another state.
  useEffect(() => setTrial(null), [state]);

  const lineInHand = wished ? wished.part === "line" : step === "line";
  const lineAt = lineInHand ? lineId : voiceOf(shown, "").id;
  const place = useMemo(
    () => ({ state, hitId, layer: layerAt, lineId: lineAt }),
    [state, hitId, layerAt, lineAt],
  );
  const [several, setSeveral] = useState<ImportedAudio[] | null>(null);
  const read = useCallback(
    async (files: File[]) => {
      say(files.length === 1 ? `Reading ${files[0]?.name}…` : `Reading ${files.length} files…`);
      const found: ImportedAudio[] = [];
      const refused: string[] = [];
      for (const file of files)
        await api
          .importAudio(file)
          .then((one) => found.push(one))
          .catch((error: Error) => refused.push(error.message));
      if (refused.length > 0) say(refused.join(" "));
      return found;
    },
    [say],
  );
  const bring = useCallback(
    (file: File, as: Brought) => {
      void read([file]).then(([one]) => {
        if (!one) return;
        const { edit, told } = put(as, one, controls, place);
        change(edit);
        say(told);
      });
    },
    [change, controls, place, read, say],
  );
  const [dropWish, setDropAs] = useState<Brought | null>(null);
  const dropAs: Brought | null =
    dropWish ??
    (lineInHand || step === "duck" ? "bass" : step === "hits" || step === "line" ? "hit" : null);
  const hovering = useDrop(
    useCallback(
      (files: File[]) => {
        if (dropAs === null)
          say("Nothing here takes a file: drop it on Hits, Line or Duck. Nothing was changed.");
        else if (files.length === 1) bring(files[0] as File, dropAs);
        else
          void read(files).then((found) =>
            setSeveral(found.sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }))),
          );
      },
      [bring, dropAs, read, say],
    ),
  );

  useBack(saving, say);
  const firstPlay = (play: () => void) => () => {
    if (!localStorage.getItem(CAUTION_SEEN)) {
      localStorage.setItem(CAUTION_SEEN, "yes");
      setCaution(true);
    }
    play();
  };
  const play = firstPlay(toggle);
  const strike = (stroke?: Stroke, hit: Hit = atHand) =>
    firstPlay(() => listening.once(hit, stroke))();
  const bars = state.brief.chord_roots.length;
  useShortcuts({
    " ": play,
    k: () => strike(),
    ...Object.fromEntries(
      STEPS.map(({ id }, n) => [String(n + 1), () => void go(`/tracks/${track.id}/${id}`)]),
    ),
    "[": () => setBar((bar + bars - 1) % bars),
    "]": () => setBar((bar + 1) % bars),
    f: () => {
      const fix = document.querySelector<HTMLElement>(".fix-row button");
      (fix ?? document.querySelector<HTMLElement>(".findings"))?.focus();
    },
    "mod+z": desk.undo,
    "mod+shift+z": desk.redo,
    "mod+y": desk.redo,
    "mod+s": () => void go(`/tracks/${track.id}/log`, { state: { keep: true } }),
    "?": () => setHelp(true),
    escape: () => setTrial(null),
  });

  const context: Desk = {
    ...desk,
    shown,
    trial,
    tryFix,
    hearTrial,
    endTrial,
    bar,
    setBar,
    moment,
    setMoment,
    facts,
    controls,
    kick,
    partId,
    choosePart,
    hitId,
    chooseHit,
    hit: atHand === shownKick ? kick : other,
    layerAt,
    chooseLayer,
    lineId,
    strike,
    answer,
    bring,
    setDropAs,
    say,
  };
  const View = VIEWS[step];
  const alone = wished ? wished.part === "hit" : ALONE.includes(step);
  const failure = answer.error ?? kick.error ?? other.error;
  return (
    <DeskContext.Provider value={context}>
      <div className={`bench at-${step}`}>
        <TopBar step={step} onHelp={() => setHelp(true)} />
        <nav className="steps" aria-label="Steps">
          {STEPS.map(({ id, name, what }, n) => {
            const open = answer.data?.findings.filter((finding) => finding.step === id).length ?? 0;
            return (
              <NavLink key={id} to={`/tracks/${track.id}/${id}`} title={`${what} (${n + 1})`}>
                <span>{name}</span>
                {open > 0 && (
                  <span
                    className="count"
                    aria-label={open === 1 ? "1 finding" : `${open} findings`}
                  >
                    {open}
                  </span>
                )}
                <small>{what}</small>
              </NavLink>
            );
          })}
        </nav>
        <Transport
          player={listening.player}
          playing={listening.playing}
          onPlay={play}
          onOnce={() => strike()}
          once={atHand.name}
          hearing={hearing}
          onHearing={hear}
          comparable={mainDucking(state).on && !trial && hearing.part !== "kick"}
        />
        <main className="centre">
          <BeatWindow alone={alone} player={listening.player} />
          <section className="step" aria-label={STEPS.find(({ id }) => id === step)?.name}>
            {several && several.length > 0 && (
              <Several
                files={several}
                onLeave={() => setSeveral(null)}
                onPut={(as) => {
                  const { edit, told } = putMany(as, several, controls, place);
                  change(edit);
                  say(told);
                  setSeveral(null);
                }}
              />
            )}
            <View />
          </section>
        </main>
        <Ladder regions={alone} step={step} />
        <Findings onHear={firstPlay(start)} />
        <div className="notices" aria-live="polite">
          {caution && (
            <div className="notice">
              <Caution />
              <Button size="sm" onClick={() => setCaution(false)}>
                Understood
              </Button>
            </div>
          )}
          {saving === "stale" && (
            <div className="notice" role="alert">
              <p>{trouble}</p>
              <Button
                size="sm"
                onClick={() =>
                  api
                    .keep(track.id, track.section, state, "Kept from a tab that was not up to date")
                    .then(() => {
                      desk.reload();
                      say("Yours is in the log as a version; here is the other.");
                    })
                    .catch((error: Error) => say(error.message))
                }
              >
                Keep mine as a version
              </Button>{" "}
              <Button size="sm" variant="outline-secondary" onClick={desk.reload}>
                Go on from the other
              </Button>
            </div>
          )}
          {saving === "away" && (
            <div className="notice" role="alert">
              {trouble}
            </div>
          )}
          {saving === "failed" && (
            <div className="notice" role="alert">
              <p>{trouble}</p>
              <Button size="sm" onClick={() => void desk.flush().catch(() => undefined)}>
                Save again
              </Button>
            </div>
          )}
          {failure && saving !== "away" && (
            <div className="notice" role="alert">
              {failure.message}
            </div>
          )}
          {message && <div className="notice">{message}</div>}
        </div>
        {hovering && (
          <div className="drop-here">
            {dropAs ? dropsAs(dropAs, place) : "Nothing here takes a file"}
          </div>
        )}
        <Help show={help} onHide={() => setHelp(false)} />
      </div>
    </DeskContext.Provider>
  );
}
