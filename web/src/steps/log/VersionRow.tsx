import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, rawAddress, type KeptVersion } from "../../api/client";
import { judging, type ToldNumber } from "../../api/judging";
import { signed } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { Silhouette } from "./Silhouette";

const digits = (value: number) => (Math.abs(value) < 10 ? 1 : 0);
const shown = ({ value, unit }: ToldNumber) =>
  `${signed(value, digits(value)).replace(/^[+±]/, "")} ${unit}`;

/** What the line says already, unless it moved. */
const IN_THE_LINE = ["collision", "ducking"];

const moved = (number: ToldNumber, before?: ToldNumber) =>
  before !== undefined && shown(before) !== shown(number);

/** A number, and what it was in the version before where that was another. */
export function told(number: ToldNumber, before?: ToldNumber): string {
  return `${number.name} ${before && moved(number, before) ? `${shown(before).replace(` ${before.unit}`, "")} → ` : ""}${shown(number)}`;
}

interface Props {
  version: KeptVersion;
  before: KeptVersion | undefined;
  onChanged: () => Promise<unknown>;
  onDelete: () => void;
}

/** A kept version: what changed in words, its numbers, and all that can be done with it. */
export function VersionRow({ version, before, onChanged, onDelete }: Props) {
  const { track, state, ask, say, compare, listening } = useDesk();
  const [tags, setTags] = useState(version.tags);
  const name = version.note || "this version";
  const failed = (error: Error) => say(error.message);
  const mark = (changes: { star?: boolean; tags?: string }) =>
    void judging.mark(track.id, version.id, changes).then(onChanged, failed);
  const hear = (as: "a" | "b") =>
    void judging
      .versionState(track.id, version.id, track.section)
      .then((heard) => {
        if (as === "a") compare.setBase({ label: name, state: heard });
        else compare.begin({ label: name, state: heard });
        if (as === "a") compare.hear("a");
        listening.start();
      })
      .catch(failed);
  const broughtBack = () => {
    say("Brought back. Undo returns to where you were.");
    void api
      .asKept(track.id, version.id)
      .then(
        ({ same, apart_db }) =>
          same === false &&
          say(
            `Brought back, but it sounds different from when it was kept: up to ${(apart_db ?? 0).toFixed(1)} dB. The engine has changed since.`,
          ),
      )
      .catch(failed);
  };
  const back = () => ask((id, revision) => api.bringBack(id, version.id, revision), broughtBack);
  const numbers = version.numbers
    .map((one) => ({ one, was: before?.numbers.find((old) => old.name === one.name) }))
    .filter(({ one, was }) => !IN_THE_LINE.includes(one.name) || moved(one, was))
    .map(({ one, was }) => told(one, was));
  return (
    <li>
      <time dateTime={version.made_at}>
        {new Date(version.made_at).toLocaleString()}
        <Silhouette kick={version.kick_db} bass={version.bass_db} />
      </time>
      <div className="version-said">
        <b>
          <button
            type="button"
            className="star"
            aria-pressed={version.star}
            aria-label={`Star for ${name}: it was sent out`}
            title="A star for what was sent out"
            onClick={() => mark({ star: !version.star })}
          >
            {version.star ? "★" : "☆"}
          </button>
          {version.note || "no note"}
        </b>
        {version.changed.length > 0 && <span>{version.changed.join(" · ")}</span>}
        <span className="why">{version.said ?? version.trouble}</span>
        {numbers.length > 0 && <span className="why">{numbers.join(" · ")}</span>}
        {version.findings.length > 0 && (
          <details>
            <summary>
              {version.findings.length === 1
                ? "1 finding was open"
                : `${version.findings.length} findings were open`}
            </summary>
            <ul>
              {version.findings.map((sentence) => (
                <li key={sentence} className="why">
                  {sentence}
                </li>
              ))}
            </ul>
          </details>
        )}
      </div>
      <span className="acts">
        {version.trouble ? (
          <a
            className="btn btn-sm btn-outline-secondary"
            href={rawAddress(track.id, version.id)}
            download
          >
            Save it raw
          </a>
        ) : (
          <>
            <Button
              size="sm"
              variant="outline-secondary"
              aria-label={`Hear ${name} against now`}
              title="Against the track as it stands, equally loud, in the same place of the bar"
              onClick={() => hear("b")}
            >
              Hear
            </Button>
            {compare.against && !compare.blind && (
              <Button
                size="sm"
                variant="outline-secondary"
                aria-label={`Hear ${name} as A`}
                title="As A, in place of the track as it stands: two versions against each other"
                onClick={() => hear("a")}
              >
                as A
              </Button>
            )}
            <Button
              size="sm"
              variant="outline-primary"
              aria-label={`Bring back ${name}`}
              onClick={back}
            >
              Bring back
            </Button>
            <Form.Select
              size="sm"
              aria-label={`Bring one part of ${name} back`}
              value=""
              onChange={(event) => {
                const part = event.target.value;
                ask(
                  (id, based_on, section) =>
                    judging.partBack(id, version.id, { part, section, based_on }),
                  () => say("That part is as it was. Undo takes it back."),
                );
              }}
            >
              <option value="" disabled>
                one part…
              </option>
              {state.parts.map(({ id, name: part }) => (
                <option key={id} value={id}>
                  {part}
                </option>
              ))}
              {state.duckings.map(({ id }, n) => (
                <option key={`ducking ${id}`} value={id}>
                  ducking {n + 1}
                </option>
              ))}
            </Form.Select>
          </>
        )}
        <Form.Control
          size="sm"
          className="tags"
          aria-label={`Tags of ${name}`}
          placeholder="tags"
          maxLength={200}
          value={tags}
          onChange={(event) => setTags(event.target.value)}
          onBlur={() => tags !== version.tags && mark({ tags })}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        />
        <Button
          size="sm"
          variant="outline-secondary"
          aria-label={`Delete ${name}`}
          onClick={onDelete}
        >
          delete
        </Button>
      </span>
    </li>
  );
}
