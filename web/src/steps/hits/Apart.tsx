import { Button } from "react-bootstrap";
import { api, type ApartView, type Hit } from "../../api/client";
import { decibels } from "../../bench/scale";
import { useAsked } from "../../bench/useAsked";
import { Working } from "../../bench/Working";
import { useDesk } from "../../track/context";
import { editHit } from "../../track/parts";

/** A file as a hit that can be edited: its body as a recipe, its click as a sample; heard beside it, then taken. */
export function Apart({ hit, layer }: { hit: Hit; layer: number }) {
  const { shown, change, chooseLayer } = useDesk();
  const { busy, job, found, drop, begin, box } = useAsked<ApartView, Hit>(api.apart, false);
  const take = (made: Hit) => {
    // This is gone then: its layer is no file any more.
    box.current?.closest<HTMLElement>(".step")?.focus();
    drop();
    change(editHit(hit.id, () => made));
    chooseLayer(layer);
  };
  return (
    <div className="apart" role="group" aria-label="Taken apart" tabIndex={-1} ref={box}>
      {busy && (
        <>
          <span role="status">Taking it apart…</span>
          <Working job={job} />
        </>
      )}
      {!busy && found?.of === hit && (
        <Made view={found.view} hit={hit} onTake={take} onLeave={drop} />
      )}
      {!busy && found?.of !== hit && (
        <Button
          size="sm"
          variant="outline-secondary"
          title="Fits a made kick or 808 to this file and keeps its click as a sample, so that note, length and click can be changed"
          onClick={() => begin(api.takeApart(shown.brief, hit, layer), hit)}
        >
          Make it editable
        </Button>
      )}
    </div>
  );
}

/** What came of it, beside the file. */
function Made(props: {
  view: ApartView;
  hit: Hit;
  onTake: (made: Hit) => void;
  onLeave: () => void;
}) {
  const { strike } = useDesk();
  const { view, hit, onTake, onLeave } = props;
  const { likeness, said, hit: made } = view;
  return (
    <>
      <span>
        {made.layers.length - hit.layers.length + 1} layers, third octaves{" "}
        {decibels(likeness.spectral_distance_db)} from the file; the body alone leaves{" "}
        {decibels(likeness.body_residual_db, 0)}
        {likeness.pitch_error_cents !== null &&
          likeness.pitch_error_cents < 5 &&
          `, its tail lies ${likeness.pitch_error_cents.toFixed(1)} cents off`}
        . {said.join(" ")}
      </span>
      <Button size="sm" variant="outline-secondary" onClick={() => strike(undefined, hit)}>
        Hear the file
      </Button>
      <Button size="sm" variant="outline-secondary" onClick={() => strike(undefined, made)}>
        Hear it made
      </Button>
      <Button size="sm" onClick={() => onTake(made)}>
        Take it
      </Button>
      <Button size="sm" variant="outline-secondary" onClick={onLeave}>
        Leave it
      </Button>
    </>
  );
}
