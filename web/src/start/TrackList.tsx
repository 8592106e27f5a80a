import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import { api, type ListedTrack, type SavedTrack } from "../api/client";
import { Sketch } from "./Sketch";
import { byName, found, latestFirst, weighs } from "./order";

const SORTS = { "last changed": latestFirst, name: byName };
type Sort = keyof typeof SORTS;

const day = (at: string) =>
  new Date(at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });

interface Props {
  tracks: ListedTrack[];
  onCopy: (making: Promise<SavedTrack>) => void;
}

/** Every track of the studio: searched, sorted, duplicated, deleted and brought back. */
export function TrackList({ tracks, onCopy }: Props) {
  const [search, setSearch] = useState("");
  const [sort, setSort] = useState<Sort>("last changed");
  const [told, setTold] = useState<string | null>(null);
  const status = useRef<HTMLParagraphElement>(null);
  const queries = useQueryClient();
  const deleted = useQuery({ queryKey: ["deleted tracks"], queryFn: api.deletedTracks });
  const weight = useQuery({ queryKey: ["weight"], queryFn: api.weight });
  const again = (what: string) => async () => {
    setTold(what);
    // The row that was pressed is gone.
    status.current?.focus();
    await queries.invalidateQueries({ queryKey: ["tracks"] });
    await queries.invalidateQueries({ queryKey: ["deleted tracks"] });
  };
  const failed = (error: Error) => setTold(error.message);
  const shown = SORTS[sort](found(tracks, search));
  return (
    <div className="track-list">
      <h2>Tracks</h2>
      {tracks.length === 0 ? (
        <p className="calm">No tracks yet. They are listed here, and saved as you work.</p>
      ) : (
        <div className="begin-row">
          <Form.Control
            size="sm"
            type="search"
            aria-label="Search the tracks"
            placeholder="Search"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <Form.Select
            size="sm"
            aria-label="Sorted by"
            value={sort}
            onChange={(event) => setSort(event.target.value as Sort)}
          >
            {Object.keys(SORTS).map((name) => (
              <option key={name}>{name}</option>
            ))}
          </Form.Select>
        </div>
      )}
      {tracks.length > 0 && (
        <table className="table table-sm">
          <thead>
            <tr>
              <th aria-sort={sort === "name" ? "ascending" : undefined}>name</th>
              <th>pattern</th>
              <th aria-sort={sort === "last changed" ? "descending" : undefined}>last changed</th>
              <th>
                <span className="visually-hidden">what to do with it</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {shown.map((track) => (
              <tr key={track.id}>
                <td>
                  <Link to={`/tracks/${track.id}/hits`}>{track.name}</Link>
                </td>
                <td>
                  <Sketch track={track} />
                </td>
                <td>{day(track.changed_at)}</td>
                <td>
                  <Button
                    size="sm"
                    variant="outline-secondary"
                    aria-label={`Duplicate ${track.name}`}
                    onClick={() => onCopy(api.copyTrack(track.id))}
                  >
                    duplicate
                  </Button>{" "}
                  <Button
                    size="sm"
                    variant="outline-secondary"
                    aria-label={`Delete ${track.name}`}
                    onClick={() =>
                      void api
                        .deleteTrack(track.id)
                        .then(
                          again(`${track.name} is deleted. It can be brought back for 30 days.`),
                        )
                        .catch(failed)
                    }
                  >
                    delete
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {tracks.length > 0 && shown.length === 0 && <p className="calm">No track by that name.</p>}
      <p role="status" tabIndex={-1} ref={status}>
        {told}
      </p>
      {deleted.data && deleted.data.length > 0 && (
        <>
          <h2>Deleted in the last 30 days</h2>
          <ul className="demos">
            {deleted.data.map((track) => (
              <li key={track.id}>
                <Button
                  size="sm"
                  variant="outline-secondary"
                  aria-label={`Bring back ${track.name}`}
                  onClick={() =>
                    void api
                      .undeleteTrack(track.id)
                      .then(again(`${track.name} is back.`))
                      .catch(failed)
                  }
                >
                  bring back
                </Button>
                <span>
                  {track.name}{" "}
                  <span className="why">deleted {track.deleted_at && day(track.deleted_at)}</span>
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      {weight.data && (
        <p className="why">
          The studio weighs {weighs(weight.data.file)}, of which sounds {weighs(weight.data.sounds)}
          .
        </p>
      )}
    </div>
  );
}
