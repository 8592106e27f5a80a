import { useEffect, useRef } from "react";
import type { Player } from "../../audio/player";
import type { Scale } from "./frame";

/** Where the sound is, drawn without asking React. */
export function Playhead(props: {
  player: Player;
  x: Scale;
  /** Where the picture begins in the loop, for a moment of it in ms. */
  begins: (at: number) => number;
  span: number;
  from: number;
  height: number;
}) {
  const { player, x, begins, span, from, height } = props;
  const mark = useRef<SVGLineElement>(null);
  useEffect(() => {
    let frame = 0;
    const draw = () => {
      const at = player.positionMs();
      const inside = at === null ? -1 : at - begins(at);
      const visible = inside >= from && inside < from + span;
      mark.current?.setAttribute("visibility", visible ? "visible" : "hidden");
      if (visible) mark.current?.setAttribute("transform", `translate(${x(inside)},0)`);
      frame = requestAnimationFrame(draw);
    };
    draw();
    return () => cancelAnimationFrame(frame);
  });
  return <line ref={mark} y1={16} y2={height - 16} className="playhead" visibility="hidden" />;
}
