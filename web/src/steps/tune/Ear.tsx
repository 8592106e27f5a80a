import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type Pitched } from "../../api/client";
import { useDesk } from "../../track/context";

/** An ear that says what a hit sounds, by typing or by tapping notes until one is right. */
export function Ear({ row }: { row: Pitched }) {
  const { state, change, strike, say } = useDesk();
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const byEar = row.sounds?.degree === "by ear";
  const hear = (text: string) =>
    api
      .heardAs(state, row.id, text)
      .then((there) => {
        change(() => there);
        setTyped("");
        setWrong(null);
        say(
          text ? `The ${row.name} counts as ${text} now.` : `The ${row.name} counts as measured.`,
        );
      })
      .catch((error: Error) => setWrong(error.message));
  return (
    <section className="ear" aria-label={`What your ear says of the ${row.name}`}>
      <span>your ear</span>
      <div role="group" aria-label="Tap a note to hear the hit over it">
        {row.ear_notes.map((note) => (
          <Button
            key={note}
            size="sm"
            variant={note === row.sounds?.note ? "secondary" : "outline-secondary"}
            title={`Hear the ${row.name} over a steady ${note}`}
            onClick={() => {
              strike({ against: note });
              setTyped(note);
            }}
          >
            {note}
          </Button>
        ))}
      </div>
      <Form
        onSubmit={(event) => {
          event.preventDefault();
          if (typed.trim()) void hear(typed.trim());
        }}
      >
        <Form.Control
          size="sm"
          aria-label={`Note of the ${row.name}, typed`}
          placeholder="A#1 +12, 58.3 Hz"
          maxLength={24}
          value={typed}
          isInvalid={wrong !== null}
          onChange={(event) => {
            setTyped(event.target.value);
            setWrong(null);
          }}
        />
        <Button size="sm" type="submit" variant="outline-secondary" disabled={!typed.trim()}>
          It sounds this
        </Button>
        {byEar && (
          <Button size="sm" variant="outline-secondary" onClick={() => void hear("")}>
            As measured
          </Button>
        )}
      </Form>
      {wrong && (
        <p className="warn" role="alert">
          {wrong}
        </p>
      )}
    </section>
  );
}
