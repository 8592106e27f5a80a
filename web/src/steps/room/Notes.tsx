import type { RoomView } from "../../api/judging";
import { signed } from "../../bench/scale";

/** From here a note is said to boom, or to sink. */
const BOOMS_LU = 3;
const MOST_LU = 12;

/** Every note of the lines: how much louder or softer a place makes it, against the line on the whole. */
export function Notes(props: { notes: RoomView["judged"]["notes"]; stale: boolean }) {
  const { notes, stale } = props;
  if (notes.length === 0)
    return <p className="calm">No line that is heard has notes that are known.</p>;
  return (
    <table className={stale ? "values room-notes dim" : "values room-notes"}>
      <thead>
        <tr>
          <th scope="col">note</th>
          <th scope="col">line</th>
          <th scope="col">Hz, lowest first</th>
          <th scope="col">against the line, LU</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {notes.map(({ line, note, hz, change_lu }) => {
          const long = (Math.min(Math.abs(change_lu), MOST_LU) / MOST_LU) * 50;
          const [from, className] = change_lu < 0 ? [50 - long, "room-sinks"] : [50, "room-booms"];
          return (
            <tr key={`${line} ${note} ${hz}`}>
              <th scope="row">{note}</th>
              <td>{line}</td>
              <td>{hz.toFixed(1)}</td>
              <td>
                {signed(change_lu, 1)}
                <svg viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
                  <line x1={50} x2={50} y1={0} y2={10} className="room-zero" />
                  <rect x={from} width={long} y={2} height={6} className={className} />
                </svg>
              </td>
              <td className="why">
                {change_lu > BOOMS_LU ? "booms" : change_lu < -BOOMS_LU ? "sinks" : ""}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
