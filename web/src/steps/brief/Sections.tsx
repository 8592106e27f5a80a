import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Entry } from "../../api/client";
import { MOST_ARRANGED_BARS } from "../../api/limits";
import { opensByKey } from "../../bench/opensByKey";
import { useDesk } from "../../track/context";
import "./sections.css";

/** The sections of the track, and the order in which they come. */
export function Sections() {
  const { track, ask, toSection, say } = useDesk();
  const { sections, section, main, arrangement } = track;
  const arranged = useQuery({
    queryKey: ["arrangement", track.id, track.revision],
    queryFn: () => api.arrangement(track.id),
    placeholderData: (old) => old,
  });
  const arrange = (entries: Entry[]) =>
    ask((id, revision, at) => api.arrange(id, at, entries, revision));
  const named = (id: string) => sections.find((one) => one.id === id)?.name ?? id;
  const bars = arrangement.reduce((sum, one) => sum + one.bars, 0);
  const put = (n: number, entry: Entry | null) =>
    arrange(arrangement.flatMap((one, k) => (k === n ? (entry ? [entry] : []) : [one])));
  return (
    <section className="sections" aria-label="Sections">
      <table className="values">
        <thead>
          <tr>
            <th scope="col">Section</th>
            <th scope="col">bars</th>
            <th scope="col">of its own</th>
            <th scope="col">findings</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {sections.map((one) => {
            const found = arranged.data?.findings[one.id];
            return (
              <tr key={one.id} className={one.id === section ? "at-hand" : ""}>
                <th scope="row">
                  <SectionName id={one.id} name={one.name} />
                </th>
                <td>{one.bars}</td>
                <td>{one.id === main ? "main" : one.differs.length || "follows"}</td>
                <td>{found ?? "–"}</td>
                <td>
                  {one.id !== section && (
                    <Button
                      size="sm"
                      variant="outline-secondary"
                      aria-label={`Go to ${one.name}`}
                      onClick={() => toSection(one.id)}
                    >
                      open
                    </Button>
                  )}{" "}
                  {one.id !== main && (
                    <>
                      <Button
                        size="sm"
                        variant="outline-secondary"
                        aria-label={`Make ${one.name} the main section`}
                        title="The others follow it then; every section sounds as before"
                        onClick={() =>
                          ask((id, revision, at) => api.makeMain(id, at, one.id, revision))
                        }
                      >
                        make main
                      </Button>{" "}
                      <Button
                        size="sm"
                        variant="outline-secondary"
                        aria-label={`Remove ${one.name}`}
                        onClick={() => {
                          ask(
                            (id, revision, at) => api.removeSection(id, at, one.id, revision),
                            () => say(`${one.name} is gone. Undo brings it back.`),
                          );
                        }}
                      >
                        remove
                      </Button>
                    </>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="arrangement">
        <span role="list" aria-label="Arrangement">
          {arrangement.map((entry, n) => (
            <span key={n} role="listitem" className="entry">
              <b>{named(entry.section)}</b>
              <input
                type="number"
                className="form-control form-control-sm"
                aria-label={`Bars of ${named(entry.section)}, place ${n + 1}`}
                min={1}
                max={MOST_ARRANGED_BARS - bars + entry.bars}
                value={entry.bars}
                onChange={(event) => {
                  const next = Math.round(Number(event.target.value));
                  if (next >= 1 && next <= MOST_ARRANGED_BARS - bars + entry.bars)
                    put(n, { ...entry, bars: next });
                }}
              />
              <Button
                size="sm"
                variant="outline-secondary"
                aria-label={`Take ${named(entry.section)}, place ${n + 1}, out of the arrangement`}
                onClick={() => put(n, null)}
              >
                ×
              </Button>
            </span>
          ))}
        </span>
        <select
          className="form-select form-select-sm add-hit"
          aria-label="Add to the arrangement"
          onKeyDown={opensByKey}
          value=""
          disabled={bars >= MOST_ARRANGED_BARS}
          onChange={(event) => {
            const chosen = sections.find(({ id }) => id === event.target.value);
            if (chosen)
              arrange([
                ...arrangement,
                { section: chosen.id, bars: Math.min(8, MOST_ARRANGED_BARS - bars) },
              ]);
          }}
        >
          <option value="">+ section…</option>
          {sections.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
        <span className="why">
          {bars === 0 ? "No order yet." : `${bars} bars.`} A section may come again.
        </span>
      </div>
      {arranged.data && arranged.data.bars_db.length > 0 && (
        <Strip levels={arranged.data.bars_db} entries={arrangement} named={named} />
      )}
    </section>
  );
}

/** Taken when it is left or Enter is pressed; Escape gives it up. */
function SectionName({ id, name }: { id: string; name: string }) {
  const { ask } = useDesk();
  const [typed, setTyped] = useState<string | null>(null);
  const take = () => {
    const wish = typed?.trim();
    if (wish && wish !== name)
      ask((track, revision, at) => api.renameSection(track, at, id, wish, revision));
    setTyped(null);
  };
  return (
    <input
      className="form-control form-control-sm"
      aria-label={`Name of the section ${name}`}
      maxLength={40}
      value={typed ?? name}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setTyped(null);
        event.stopPropagation();
      }}
    />
  );
}

const HEIGHT = 34;
const FLOOR_DB = -42;

/** The low end of every bar of the arrangement: the kick above, the lines below. */
function Strip(props: {
  levels: { kick_db: number; bass_db: number }[];
  entries: Entry[];
  named: (id: string) => string;
}) {
  const { levels, entries, named } = props;
  const high = (db: number) => Math.max(0, (1 - db / FLOOR_DB) * (HEIGHT / 2));
  return (
    <svg
      className="strip"
      viewBox={`0 0 ${levels.length * 6} ${HEIGHT}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`Low end of ${levels.length} bars`}
    >
      {levels.map(({ kick_db, bass_db }, bar) => (
        <g key={bar}>
          <rect
            className="kick-area"
            x={bar * 6}
            width={5}
            y={HEIGHT / 2 - high(kick_db)}
            height={high(kick_db)}
          />
          <rect className="bass-area" x={bar * 6} width={5} y={HEIGHT / 2} height={high(bass_db)} />
        </g>
      ))}
      {entries.map((entry, n) => {
        const x = 6 * entries.slice(0, n).reduce((sum, one) => sum + one.bars, 0);
        return (
          <line key={n} className="grid" x1={x} x2={x} y1={0} y2={HEIGHT}>
            <title>{named(entry.section)}</title>
          </line>
        );
      })}
    </svg>
  );
}
