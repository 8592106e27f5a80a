import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { api } from "../api/client";
import type { StepId } from "../steps/steps";
import { useDesk } from "../track/context";
import { latestFirst } from "../start/order";
import { applyTheme, storedTheme, type Theme } from "./theme";

const SAVING = {
  saved: "saved",
  waiting: "saving…",
  stale: "changed elsewhere",
  failed: "not saved",
  away: "server away",
};

/** So many tracks are listed here, those that were changed last. */
const LISTED = 12;

// What a new section is called, as long as no other is.
const NAMES = ["intro", "break", "drop", "verse", "build", "outro"];

/** Which section is at hand; each follows main until something of it is changed there. */
function Sections() {
  const { track, toSection, ask, say } = useDesk();
  const { sections, section, main } = track;
  const add = () => {
    const taken = new Set(sections.map(({ name }) => name.toLowerCase()));
    const more = Array.from({ length: 40 }, (_, n) => `section ${n + 2}`);
    const name = [...NAMES, ...more].find((one) => !taken.has(one)) ?? "section";
    ask(
      (id, revision, at) => api.addSection(id, at, name, revision),
      () => say(`${name} begins as it is here. What is changed there stays there.`),
    );
  };
  return (
    <label className="section-choice">
      section
      <select
        className="form-select form-select-sm"
        aria-label="Section"
        title="What is changed in main reaches every section that follows it"
        value={section}
        onChange={(event) => {
          if (event.target.value === "+") add();
          else toSection(event.target.value);
        }}
      >
        {sections.map(({ id, name, differs }) => (
          <option key={id} value={id}>
            {name}
            {differs.length > 0 && ` · ${differs.length} of its own`}
            {sections.length > 1 && id === main && " · main"}
          </option>
        ))}
        <option value="+">new section…</option>
      </select>
    </label>
  );
}

/** Which track, its key, tempo and sub owner; going back; what the whole page looks like. */
export function TopBar({ step, onHelp }: { step: StepId; onHelp: () => void }) {
  const { track, state, saving, undo, redo, rename, facts, say } = useDesk();
  const tracks = useQuery({ queryKey: ["tracks"], queryFn: api.tracks });
  const go = useNavigate();
  const [naming, setNaming] = useState<string | null>(null);
  const [theme, setTheme] = useState<Theme>(storedTheme);
  const picked = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const open = async (file: File) => {
    try {
      const opened = await api.openParcel(file);
      await queries.invalidateQueries({ queryKey: ["tracks"] });
      await go(`/tracks/${opened.id}/${step}`);
    } catch (error) {
      say((error as Error).message);
    }
  };
  return (
    <header className="topbar">
      {naming === null ? (
        <Dropdown>
          <Dropdown.Toggle variant="link" className="track-name">
            {track.name}
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {latestFirst(tracks.data ?? [])
              .slice(0, LISTED)
              .map((one) => (
                <Dropdown.Item
                  key={one.id}
                  active={one.id === track.id}
                  onClick={() => void go(`/tracks/${one.id}/${step}`)}
                >
                  {one.name}
                </Dropdown.Item>
              ))}
            <Dropdown.Divider />
            <Dropdown.Item onClick={() => void go("/?tracks")}>
              All tracks, and new ones…
            </Dropdown.Item>
            <Dropdown.Item onClick={() => picked.current?.click()}>
              Open a track file…
            </Dropdown.Item>
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
      <input
        ref={picked}
        type="file"
        hidden
        accept=".zip"
        aria-label="Track file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) void open(file);
        }}
      />
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
