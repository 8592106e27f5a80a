import type { Voices } from "../../api/client";
import { decibels, signed } from "../../bench/scale";

interface Props {
  report: Voices;
  beatMs: number;
}

/** The notes that were found in a file: where, which, how loud, and how they lie to the kick. */
export function FoundNotes({ report, beatMs }: Props) {
  return (
    <div className="found-notes" role="region" aria-label="Notes of the file" tabIndex={0}>
      <table className="table table-sm">
        <thead>
          <tr>
            <th>bar and beat</th>
            <th>note</th>
            <th>length</th>
            <th>20–150 Hz</th>
            <th>against the median</th>
            <th>to the kick</th>
          </tr>
        </thead>
        <tbody>
          {report.notes.map((one) => {
            const beats = one.start_ms / beatMs;
            return (
              <tr key={one.start_ms}>
                <td>
                  bar {Math.floor(beats / 4) + 1}, {((beats % 4) + 1).toFixed(2)}
                </td>
                <td>
                  {one.note} {signed(one.cents, 0)} ¢
                </td>
                <td>{one.length_ms.toFixed(0)} ms</td>
                <td>{decibels(one.low_db)}</td>
                <td>{decibels(-one.trim_db)}</td>
                <td>
                  {one.timing}, {signed(one.kick_ms, 0)} ms
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
