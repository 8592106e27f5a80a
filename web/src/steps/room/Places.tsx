import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { Button } from "react-bootstrap";
import { judging, type Room } from "../../api/judging";
import { SOUND_FILES } from "../../track/brought";
import { useDesk } from "../../track/context";
import { Drawing } from "./Drawing";

const NAMES: Record<string, string> = {
  club: "Large club",
  "small club": "Small club",
  headphones: "Headphones",
  laptop: "Laptop",
  phone: "Phone",
  car: "Car",
};

/** The places, each by its words and a plain drawing of its response. */
export function Places() {
  const { inRoom, say } = useDesk();
  const { room, names, named, choose } = inRoom;
  const queries = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const responses = useQuery({ queryKey: ["responses"], queryFn: judging.responses });
  const failed = (error: Error) => say(error.message);
  const add = useMutation({
    mutationFn: judging.keepResponse,
    onSuccess: (all) => queries.setQueryData(["responses"], all),
    onError: failed,
  });
  const forget = useMutation({
    mutationFn: judging.forgetResponse,
    onSuccess: () => queries.invalidateQueries({ queryKey: ["responses"] }),
    onError: failed,
  });
  const own = (responses.data ?? []).map(({ id, name, audio }): { id: number; place: Room } => ({
    id,
    place: { room: "own", audio, name },
  }));
  const at = (one: Room) =>
    room.room === one.room &&
    (room.room !== "own" || one.room !== "own" || room.audio === one.audio);
  return (
    <div className="room-places" role="group" aria-label="Places">
      {names.map((name) => (
        <Tile
          key={name}
          name={NAMES[name] ?? name}
          place={named(name)}
          chosen={room.room === name}
          onChoose={choose}
        />
      ))}
      {own.map(({ id, place }) => (
        <span key={id} className="room-own">
          <Tile
            name={place.room === "own" ? place.name : ""}
            place={place}
            chosen={at(place)}
            onChoose={choose}
          />
          <Button
            size="sm"
            variant="outline-secondary"
            aria-label={`Remove ${place.room === "own" ? place.name : ""} from the places`}
            onClick={() => {
              if (at(place)) choose(named("club"));
              forget.mutate(id);
            }}
          >
            ×
          </Button>
        </span>
      ))}
      <Button size="sm" variant="outline-secondary" onClick={() => file.current?.click()}>
        + own response…
      </Button>
      <input
        ref={file}
        type="file"
        hidden
        aria-label="An impulse response from a file"
        accept={SOUND_FILES}
        onChange={(event) => {
          const [chosen] = event.target.files ?? [];
          if (chosen) add.mutate(chosen);
          event.target.value = "";
        }}
      />
    </div>
  );
}

function Tile(props: {
  name: string;
  place: Room;
  chosen: boolean;
  onChoose: (room: Room) => void;
}) {
  const { name, place, chosen, onChoose } = props;
  const response = useQuery({
    queryKey: ["response", place],
    queryFn: () => judging.response(place),
    staleTime: Infinity,
  });
  return (
    <button
      type="button"
      className={chosen ? "room-tile chosen" : "room-tile"}
      aria-pressed={chosen}
      title={name}
      onClick={() => onChoose(place)}
    >
      <span>{name}</span>
      {response.data && <Drawing response={response.data} />}
    </button>
  );
}
