import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type DuckPoint } from "../../api/client";
import { useDesk } from "../../track/context";

interface Props {
  points: DuckPoint[];
  onChoose: (points: DuckPoint[]) => void;
}

/** The user's own curves: kept once, there for every track at its own tempo. */
export function Shapes({ points, onChoose }: Props) {
  const { shown, say } = useDesk();
  const { bpm } = shown.brief;
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [at, setAt] = useState<number | null>(null);
  const [sure, setSure] = useState(false);
  const kept = useQuery({ queryKey: ["shapes", bpm], queryFn: () => api.shapes(bpm) });
  const chosen = kept.data?.find(({ id }) => id === at);
  const told = (action: Promise<unknown>, text: string) =>
    action
      .then(() => queries.invalidateQueries({ queryKey: ["shapes"] }))
      .then(() => say(text))
      .catch((error: Error) => say(error.message));
  return (
    <Form
      className="curve-shapes"
      onSubmit={(event) => {
        event.preventDefault();
        const named = name.trim();
        void told(
          api.keepShape(named, bpm, points).then(() => setName("")),
          `“${named}” is kept, for any track of this studio.`,
        );
      }}
    >
      <label className="dial-choice">
        My shapes
        <select
          className="form-select form-select-sm"
          value={at ?? ""}
          disabled={!kept.data?.length}
          onChange={(event) => {
            const id = Number(event.target.value);
            setSure(false);
            setAt(id || null);
            const shape = kept.data?.find((one) => one.id === id);
            if (shape) onChoose(shape.points);
          }}
        >
          <option value="">{kept.data?.length ? "choose" : "none kept yet"}</option>
          {kept.data?.map((shape) => (
            <option key={shape.id} value={shape.id}>
              {shape.name}
            </option>
          ))}
        </select>
      </label>
      {chosen && (
        <Button
          size="sm"
          variant="outline-secondary"
          onClick={() => {
            if (!sure) return setSure(true);
            setSure(false);
            setAt(null);
            void told(api.forgetShape(chosen.id), `“${chosen.name}” is forgotten.`);
          }}
        >
          {sure ? `Forget “${chosen.name}” for good` : "Forget"}
        </Button>
      )}
      <Form.Control
        size="sm"
        aria-label="Name of the shape"
        placeholder="Name this curve"
        value={name}
        maxLength={60}
        onChange={(event) => setName(event.target.value)}
      />
      <Button size="sm" type="submit" variant="outline-secondary" disabled={!name.trim()}>
        Keep as my shape
      </Button>
    </Form>
  );
}
