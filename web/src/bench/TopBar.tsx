import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { api, type Section } from "../api/client";
import type { StepId } from "../steps/steps";
import { useDesk } from "../track/context";
import { applyTheme, storedTheme, type Theme } from "./theme";

const SAVING = {
  saved: "saved",
  waiting: "saving…",
  stale: "changed elsewhere",
  failed: "not saved",
};

const SECTIONS: Section[] = ["intro", "break", "drop"];

/** Which part of the track is on the bench; each may have a kick and a ducking of its own. */
function Sections() {
  const { state, change, say, controls } = useDesk();
  const own = [state.section, ...state.kicks.map((one) => one.section)];
  return (
    <label className="section-choice">
      section
      <select
        className="form-select form-select-sm"
        aria-label="Section"
        title={controls["track"]?.choices[0]?.help}
        value={state.section}
        onChange={(event) => {
          const section = event.target.value as Section;
          void api
            .atSection(state, section)
            .then((there) => {
              change(() => there);
              say(
                own.includes(section)
                  ? `The ${section}, with its own kick.`
                  : `The ${section} has a kick of its own now, a copy to be changed.`,
              );
            })
            .catch((error: Error) => say(error.message));
        }}
      >
        {SECTIONS.map((section) => (
          <option key={section} value={section}>
            {own.includes(section) ? section : `a kick for the ${section}…`}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Which track, its key, tempo and sub owner; going back; what the whole page looks like. */
export function TopBar({ step, onHelp }: { step: StepId; onHelp: () => void }) {
  const { track, state, saving, undo, redo, rename, facts } = useDesk();
  const tracks = useQuery({ queryKey: ["tracks"], queryFn: api.tracks });
  const go = useNavigate();
  const [naming, setNaming] = useState<string | null>(null);
  const [theme, setTheme] = useState<Theme>(storedTheme);
  return (
    <header className="topbar">
      {naming === null ? (
        <Dropdown>
          <Dropdown.Toggle variant="link" className="track-name">
            {track.name}
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {tracks.data?.map((one) => (
              <Dropdown.Item
                key={one.id}
                active={one.id === track.id}
                onClick={() => void go(`/tracks/${one.id}/${step}`)}
              >
                {one.name}
              </Dropdown.Item>
            ))}
            <Dropdown.Divider />
            <Dropdown.Item onClick={() => void go("/?new")}>New track…</Dropdown.Item>
            <Dropdown.Item onClick={() => setNaming(track.name)}>Rename…</Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
      ) : (
        <Form.Control
          size="sm"
          autoFocus
          className="track-naming"
          aria-label="Name of the track"
          value={naming}
          maxLength={100}
          onChange={(event) => setNaming(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Escape") setNaming(null);
            if (event.key === "Enter") event.currentTarget.blur();
          }}
          onBlur={() => {
            if (naming.trim() && naming.trim() !== track.name) rename(naming);
            setNaming(null);
          }}
        />
      )}
      <span className="track-facts">
        <b>{facts.key}</b>
        <b>{state.brief.bpm} BPM</b>
        <span>sub: {state.brief.sub_owner}</span>
      </span>
      <Sections />
      <span className="spring" />
      <span className={`saving saving-${saving}`} role="status">
        {SAVING[saving]}
      </span>
      <Button
        size="sm"
        variant="outline-secondary"
        disabled={!track.can_undo && saving === "saved"}
        onClick={undo}
      >
        Undo
      </Button>
      <Button size="sm" variant="outline-secondary" disabled={!track.can_redo} onClick={redo}>
        Redo
      </Button>
      <Form.Select
        size="sm"
        className="theme-choice"
        aria-label="Colours"
        value={theme}
        onChange={(event) => {
          const chosen = event.target.value as Theme;
          applyTheme(chosen);
          setTheme(chosen);
        }}
      >
        <option value="dark">dark</option>
        <option value="light">light</option>
        <option value="system">as the system</option>
      </Form.Select>
      <Button
        size="sm"
        variant="outline-secondary"
        aria-label="Shortcuts and cautions"
        onClick={onHelp}
      >
        ?
      </Button>
    </header>
  );
}
