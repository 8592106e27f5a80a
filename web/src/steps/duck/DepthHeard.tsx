import { scaleLinear } from "d3-scale";
import { api } from "../../api/client";
import { decibels } from "../../bench/scale";
import { useDesk } from "../../track/context";
import { useLatest } from "../../track/latest";

const DEEPEST_DB = 24;
const WIDTH = 120;

/** How deep something pumps, between what is heard as steady and what is heard as groove. */
export function Pumps(props: { db: number; transparent: number; groove: number }) {
  const { db, transparent, groove } = props;
  const x = scaleLinear([0, DEEPEST_DB], [0, WIDTH]).clamp(true);
  const word = db < transparent ? "transparent" : db > groove ? "groove forward" : "between";
  return (
    <span
      className="pumps"
      title={`Under ${transparent} dB it is heard as steady, over ${groove} dB as groove: common practice`}
    >
      <svg viewBox={`0 0 ${WIDTH} 10`} width={WIDTH} height={10} aria-hidden>
        <line x1={0} x2={WIDTH} y1={5} y2={5} className="pump-way" />
        {[transparent, groove].map((mark) => (
          <line key={mark} x1={x(mark)} x2={x(mark)} y1={0} y2={10} className="pump-mark" />
        ))}
        <circle cx={x(db)} cy={5} r={4} className="pump-dot" />
      </svg>{" "}
      pumps {decibels(db)}, {word}
    </span>
  );
}

/** What all duckings take of every line and of the whole, as it is heard. */
export function DepthHeard() {
  const { shown } = useDesk();
  const heard = useLatest(shown, api.heard);
  const view = heard.data;
  if (!view) return null;
  return (
    <table className={`values depth-heard${heard.stale ? " dim" : ""}`}>
      <thead>
        <tr>
          <th scope="col">Depth heard</th>
          <th scope="col">taken</th>
          <th scope="col">how deep, {view.parts[0]?.rate_hz.toFixed(1)} times a second</th>
        </tr>
      </thead>
      <tbody>
        {view.parts.map((part) => (
          <tr key={part.name}>
            <th scope="row">{part.name}</th>
            <td>{decibels(part.taken_lu).replace("dB", "LU")}</td>
            <td>
              <Pumps
                db={part.pumping_db}
                transparent={view.transparent_db}
                groove={view.groove_db}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
