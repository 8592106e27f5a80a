import { LoopEditor } from "../../bench/chain/LoopEditor";
import { useDesk } from "../../track/context";
import { hitOf } from "../../track/parts";
import type { TabProps } from "./HitEditor";

/** What the hit's strokes pass together, once they are placed, and where they lie. */
export function LoopTab({ id }: TabProps) {
  return <LoopEditor part={hitOf(useDesk().shown, id)} />;
}
