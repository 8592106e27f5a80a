import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { Button } from "react-bootstrap";
import { api, arrangementAddress, kitAddress, parcelAddress, zipAddress } from "../../api/client";
import { judging } from "../../api/judging";
import { download } from "../../bench/save";
import { useAsked } from "../../bench/useAsked";
import { Working } from "../../bench/Working";
import { useDesk } from "../../track/context";
import { Folder } from "./Folder";
import "./folder.css";

const size = (bytes: number) =>
  bytes < 10_000 ? `${(bytes / 1000).toFixed(1)} kB` : `${(bytes / 1000).toFixed(0)} kB`;

/** Everything that leaves, as one ZIP. */
export function HandoverStep() {
  const { track, saving, flush, say } = useDesk();
  const queries = useQueryClient();
  const [stored, setStored] = useState(false);
  useEffect(() => {
    setStored(false);
    flush().then(
      () => setStored(true),
      () => setStored(false),
    );
  }, [flush, track.revision]);
  const list = useQuery({
    queryKey: ["handover", track.id, track.section, track.revision, track.name],
    queryFn: () => api.handover(track.id, track.section),
    enabled: stored,
    placeholderData: (old) => old,
  });
  const downloadStored = async (address: string) => {
    try {
      await flush();
      download(address);
    } catch {
      say("The track is not saved yet, so its files would be old ones.");
    }
  };
  const { id } = track;
  const straight = useAsked<void, number>(
    useCallback(async (job: number) => download(arrangementAddress(id, job)), [id]),
  );
  const [busy, setBusy] = useState(false);
  /** Hands over what is stored: the log keeps it as a version. */
  const handOver = async (section: string | null, address: string | null) => {
    if (busy) return;
    setBusy(true);
    try {
      await flush();
      const told = await judging.handOver(track.id, section, address === null);
      say(told.said);
      await Promise.all(
        ["versions", "entries"].map((key) =>
          queries.invalidateQueries({ queryKey: [key, track.id] }),
        ),
      );
    } catch (error) {
      say((error as Error).message);
      return;
    } finally {
      setBusy(false);
    }
    if (address) await downloadStored(address);
  };
  const bars = track.arrangement.reduce((sum, entry) => sum + entry.bars, 0);
  return (
    <div className="step-body handover">
      <div tabIndex={-1} ref={straight.box}>
        <Button
          disabled={saving === "stale"}
          onClick={() => void handOver(track.section, zipAddress(track.id, track.section))}
        >
          Download the ZIP
        </Button>{" "}
        {track.sections.length > 1 && (
          <Button
            variant="outline-secondary"
            disabled={saving === "stale"}
            onClick={() => void handOver(null, zipAddress(track.id))}
          >
            All sections
          </Button>
        )}{" "}
        {track.arrangement.length > 0 && (
          <Button
            variant="outline-secondary"
            disabled={saving === "stale"}
            aria-disabled={straight.busy}
            title={`${bars} bars in one pass: stems, mix, gains and MIDI with its sections marked.`}
            onClick={() =>
              straight.busy ||
              straight.begin(
                flush().then(() => api.playStraight(id)),
                id,
              )
            }
          >
            The arrangement
          </Button>
        )}{" "}
        {straight.busy && <Working job={straight.job} />}
        <Button
          variant="outline-secondary"
          disabled={saving === "stale"}
          title={
            "Hits on keys, with velocities and round robins; 808s and lines note by note. " +
            "With a map as MIDI and as a table"
          }
          onClick={() => void downloadStored(kitAddress(track.id, track.section))}
        >
          A kit
        </Button>{" "}
        <Button
          variant="outline-secondary"
          disabled={saving === "stale"}
          title="The track itself with every sound it is made from, to be opened in another studio"
          onClick={() => void downloadStored(parcelAddress(track.id))}
        >
          The track as a file
        </Button>
        <Folder
          busy={busy}
          stale={saving === "stale"}
          onWrite={() => void handOver(track.section, null)}
        />
        <table className="values">
          <caption>What it holds</caption>
          <tbody>
            {list.data?.files.map((file) => (
              <tr key={file.name}>
                <th scope="row">{file.name}</th>
                <td>{size(file.bytes)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {list.isPending && (
          <p className="why" role="status">
            Rendering what it holds…
          </p>
        )}
        <p className="why">
          The one-shot peaks at −1 dBFS, 24 bit, with root note and fine tune. The loop’s parts keep
          their levels among each other. Low frequencies at club level damage hearing without
          sounding loud: follow the local rules on noise exposure.
        </p>
        {list.error && <p role="alert">{list.error.message}</p>}
      </div>
      <pre className="sheet" role="region" tabIndex={0} aria-label="Track sheet">
        {list.data?.sheet}
      </pre>
    </div>
  );
}
