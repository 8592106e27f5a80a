import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { judging } from "../../api/judging";
import { LEAST_LEVEL_DB, MOST_LEVEL_DB } from "../../api/limits";
import { Caution } from "../../bench/Help";

/** What was typed as a level, or null where it is none. */
const levelOf = (text: string): number | null => {
  const value = Number(text.replace(",", ".").replace(/\s*dB.*$/i, ""));
  return text.trim() !== "" && value >= LEAST_LEVEL_DB && value <= MOST_LEVEL_DB ? value : null;
};

const said = (hours: number, whole: number) =>
  hours <= 0
    ? "none at all"
    : hours >= whole
      ? "all of it"
      : hours >= 1
        ? `${hours.toFixed(1)} hours`
        : hours >= 1 / 60
          ? `${Math.round(60 * hours)} minutes`
          : `${Math.max(1, Math.round(3600 * hours))} seconds`;

/** How long a level at the ear may last, from a meter of one’s own. */
export function Hours() {
  const [dba, setDba] = useState("85");
  const [dbc, setDbc] = useState("");
  const [a, c] = [levelOf(dba), levelOf(dbc)];
  const wrong =
    a === null
      ? `Type the level in dBA, from ${LEAST_LEVEL_DB} to ${MOST_LEVEL_DB}.`
      : dbc.trim() !== "" && c === null
        ? `Type the level in dBC, from ${LEAST_LEVEL_DB} to ${MOST_LEVEL_DB}, or leave it out.`
        : null;
  const hours = useQuery({
    queryKey: ["exposure", a, c],
    queryFn: () => judging.exposure(a ?? 0, c),
    enabled: wrong === null,
    staleTime: Infinity,
    placeholderData: (old) => old,
  });
  return (
    <div className="room-hours">
      <div className="room-levels">
        <label>
          At your ear, by your meter
          <Form.Control size="sm" value={dba} onChange={(event) => setDba(event.target.value)} />
          dBA
        </label>
        <label>
          and
          <Form.Control size="sm" value={dbc} onChange={(event) => setDbc(event.target.value)} />
          dBC, if it shows that
        </label>
      </div>
      {wrong ? (
        <p role="alert">{wrong}</p>
      ) : (
        hours.data && (
          <p role="status">
            A day: <strong>{said(hours.data.hours_a_day, 24)}</strong> (NIOSH 98-126). A week of
            listening: <strong>{said(hours.data.hours_a_week, 168)}</strong> (WHO–ITU H.870).
            {hours.data.low_heavy &&
              " dBC lies far above dBA: there is much more low end than dBA tells, so rest sooner, and spare the house."}
          </p>
        )
      )}
      <Caution />
    </div>
  );
}
