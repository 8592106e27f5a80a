import type { RoomView } from "../../api/judging";
import { decibels, maybe, millis, percent, signed } from "../../bench/scale";
import { Slider } from "../../bench/Slider";
import { useDesk } from "../../track/context";

/** Kick and bass over each other without the place and in it, small loudspeakers, mono, headroom. */
export function Numbers({ judged, stale }: { judged: RoomView["judged"]; stale: boolean }) {
  const { inRoom, controls } = useDesk();
  const { dry, there, small, headroom, low_mono_loss_db } = judged;
  const loudness = controls["judging"]?.controls.find(({ name }) => name === "lufs");
  const rows: [string, string, string, string][] = [
    [
      "Bass covers the kick",
      maybe(dry.collision_share, percent),
      maybe(there?.collision_share ?? null, percent),
      "of the time it sounds",
    ],
    [
      "Kick over bass",
      maybe(dry.kick_over_bass_db, decibels),
      maybe(there?.kick_over_bass_db ?? null, decibels),
      "in the low band",
    ],
    [
      "Both in the sub",
      maybe(dry.sub_shared_ms, millis),
      maybe(there?.sub_shared_ms ?? null, millis),
      "a kick",
    ],
  ];
  return (
    <div className={stale ? "room-numbers dim" : "room-numbers"}>
      <table className="values">
        <thead>
          <tr>
            <th scope="col">kick and bass</th>
            <th scope="col">as made</th>
            <th scope="col">there</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, made, here, of]) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>{made}</td>
              <td>{there ? here : "no low end"}</td>
              <td className="why">{of}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <table className="values">
        <thead>
          <tr>
            <th scope="col">anywhere</th>
            <th scope="col">value</th>
            <td />
          </tr>
        </thead>
        <tbody>
          <tr title="The kick’s loudest 50 ms above 400 Hz, against the whole track elsewhere">
            <th scope="row">Kick on small loudspeakers</th>
            <td>{maybe(small?.left_db ?? null, decibels)}</td>
            <td className="why">
              {small === null
                ? "no kick is struck"
                : small.over_rest_db === null
                  ? "alone there"
                  : `${signed(small.over_rest_db, 0)} dB over the rest`}
            </td>
          </tr>
          <tr>
            <th scope="row">Low band in mono</th>
            <td>{low_mono_loss_db === null ? "mono" : decibels(low_mono_loss_db)}</td>
            <td className="why">lost below 150 Hz</td>
          </tr>
          <tr>
            <th scope="row">Crest</th>
            <td>{decibels(headroom.crest_db)}</td>
            <td className="why">peak over RMS</td>
          </tr>
          <tr>
            <th scope="row">A limiter takes</th>
            <td>{decibels(headroom.limited_db)}</td>
            <td className="why">
              true peak {signed(headroom.true_peak_dbtp, 1)} dBTP at {signed(headroom.lufs, 1)} LUFS
            </td>
          </tr>
          <tr>
            <th scope="row">Below 28 Hz</th>
            <td>{decibels(headroom.unheard_db)}</td>
            <td className="why">of headroom</td>
          </tr>
        </tbody>
      </table>
      {loudness && <Slider control={loudness} value={inRoom.lufs} onChange={inRoom.setLufs} />}
    </div>
  );
}
