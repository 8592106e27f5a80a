import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { judging, type Outlet } from "../../api/judging";
import { useDesk } from "../../track/context";

/** The folder beside the arranging project: hand-overs are written there, its files are watched on request. */
export function Folder(props: { busy: boolean; stale: boolean; onWrite: () => void }) {
  const { busy, stale, onWrite } = props;
  const { track, ask, say, outlet } = useDesk();
  const queries = useQueryClient();
  const [typed, setTyped] = useState<string | null>(null);
  const path = typed ?? outlet?.folder ?? "";
  const shown = (now: Outlet) => queries.setQueryData(["outlet", track.id], now);
  const name = useMutation({
    mutationFn: ({ folder, watching }: { folder: string | null; watching: boolean }) =>
      judging.nameOutlet(track.id, folder, watching),
    onSuccess: (now) => {
      shown(now);
      setTyped(null);
    },
    onError: (error: Error) => say(error.message),
  });
  const pair = useMutation({
    mutationFn: ({ part, file }: { part: string; file: string | null }) =>
      judging.pair(track.id, part, file),
    onSuccess: shown,
    onError: (error: Error) => say(error.message),
  });
  const parts = outlet?.parts ?? [];
  const take = (part: string, file: string) => {
    ask(
      (id, based_on, section) => judging.takeChanged(id, { part, section, based_on }),
      () =>
        say(
          `${file} is taken as it is now. What was solved for the old one is told in the findings.`,
        ),
    );
  };
  return (
    <section className="outlet" aria-label="Folder beside your project">
      <Form
        className="outlet-name"
        onSubmit={(event) => {
          event.preventDefault();
          name.mutate({ folder: path.trim() || null, watching: outlet?.watching ?? false });
        }}
      >
        <Form.Control
          size="sm"
          aria-label="Folder, its whole path"
          placeholder="a folder beside your project, its whole path"
          value={path}
          maxLength={1000}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Button size="sm" type="submit" variant="outline-secondary" disabled={typed === null}>
          Use it
        </Button>
      </Form>
      {outlet?.trouble && <p role="alert">{outlet.trouble}</p>}
      {outlet?.folder && (
        <>
          <div className="outlet-acts">
            <Button size="sm" disabled={stale} aria-disabled={busy} onClick={onWrite}>
              {busy ? "Writing…" : "Write this section there"}
            </Button>
            <Form.Check
              id="outlet-watch"
              label="watch its files"
              checked={outlet.watching}
              onChange={() => name.mutate({ folder: outlet.folder, watching: !outlet.watching })}
            />
          </div>
          {outlet.watching && outlet.files.length === 0 && (
            <p className="why">There is no sound file in it yet.</p>
          )}
          {outlet.files.length > 0 && (
            <table className="values">
              <thead>
                <tr>
                  <th scope="col">file in the folder</th>
                  <th scope="col">is the sound of</th>
                  <th scope="col">since it was taken</th>
                </tr>
              </thead>
              <tbody>
                {outlet.files.map((file) => (
                  <tr key={file.name}>
                    <th scope="row">{file.name}</th>
                    <td>
                      <Form.Select
                        size="sm"
                        aria-label={`What ${file.name} is the sound of`}
                        value={file.part ?? ""}
                        disabled={parts.length === 0}
                        title={
                          parts.length === 0
                            ? "No part of this track is made from one file"
                            : undefined
                        }
                        onChange={(event) => {
                          const part = event.target.value || file.part;
                          if (part)
                            pair.mutate({ part, file: event.target.value ? file.name : null });
                        }}
                      >
                        <option value="">nothing</option>
                        {parts.map(({ id, name: called }) => (
                          <option key={id} value={id}>
                            {called}
                          </option>
                        ))}
                      </Form.Select>
                    </td>
                    <td>
                      {file.said ?? (file.part ? "the same" : "")}{" "}
                      {file.changed && file.part && (
                        <Button
                          size="sm"
                          variant="outline-primary"
                          aria-label={`Take ${file.name} as it is now`}
                          onClick={() => file.part && take(file.part, file.name)}
                        >
                          Take it
                        </Button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </section>
  );
}
