import { useEffect, useRef } from "react";
import type { LiveSpectrum } from "../audio/player";
import { useDesk } from "../track/context";
import type { Range } from "./useZoom";

/** What is drawn from the ladder's edge to its other edge, dBFS. */
const DB: Range = [-110, -30];
/** Points a picture: more would not be seen. */
const POINTS = 240;

/** The spectrum of what plays, drawn without asking React: strong to the right. */
export function Spectrum(props: { y: (hz: number) => number; width: number; seen: Range }) {
  const { y, width, seen } = props;
  const { listening } = useDesk();
  const { player } = listening;
  const path = useRef<SVGPathElement>(null);
  useEffect(() => {
    let frame = 0;
    const draw = () => {
      const spectrum = player.spectrum();
      path.current?.setAttribute("d", spectrum ? outline(spectrum, y, width, seen) : "");
      frame = requestAnimationFrame(draw);
    };
    draw();
    return () => cancelAnimationFrame(frame);
  }, [player, y, width, seen]);
  return <path ref={path} className="live-spectrum" />;
}

/** The strongest bin of each of some places on a logarithmic scale. */
export function outline(
  { levels_db, hz_per_bin }: LiveSpectrum,
  y: (hz: number) => number,
  width: number,
  [low, high]: Range,
): string {
  const ratio = (high / low) ** (1 / POINTS);
  return Array.from({ length: POINTS }, (_, n) => {
    const hz = low * ratio ** n;
    const first = Math.round(hz / hz_per_bin);
    const last = Math.max(first, Math.round((hz * ratio) / hz_per_bin) - 1);
    let most = -Infinity;
    for (let bin = first; bin <= last; bin++) most = Math.max(most, levels_db[bin] ?? -Infinity);
    const share = Math.min(1, Math.max(0, (most - DB[0]) / (DB[1] - DB[0])));
    return `${n === 0 ? "M" : "L"}${(share * width).toFixed(1)},${y(hz).toFixed(1)}`;
  }).join("");
}
