import { useState } from "react";
import { api, type Sound } from "../../api/client";
import { useDesk } from "../../track/context";
import { decibels, maybe } from "../../bench/scale";

const hertz = (hz: number) => `${hz.toFixed(0)} Hz`;

/** The sound at hand: where it lies, its numbers, and one's own tags and note. */
export function AtHand({
  sound,
  onMarked,
}: {
  sound: Sound;
  onMarked: (changes: Partial<Sound>) => void;
}) {
  const { say } = useDesk();
  const [tags, setTags] = useState(sound.tags.join(", "));
  const [comment, setComment] = useState(sound.comment);
  const put = () => {
    const wish = tags.split(",").map((tag) => tag.trim());
    if (wish.filter(Boolean).join() === sound.tags.join() && comment === sound.comment) return;
    api
      .markSound(sound.hash, { stars: sound.stars, tags: wish.filter(Boolean), comment })
      .then((mark) => {
        setTags((mark.tags ?? []).join(", "));
        onMarked({ tags: mark.tags ?? [], comment: mark.comment ?? "" });
      })
      .catch((error: Error) => say(error.message));
  };
  return (
    <section className="stock-at-hand" aria-label="Selected sound">
      <span title={sound.places.join("\n")}>{sound.path}</span>
      <span>
        sub {maybe(sound.sub_db, decibels)}, click {maybe(sound.click_db, decibels)}, centre{" "}
        {maybe(sound.centroid_hz, hertz)}
        {sound.bpm !== null && `, ${sound.bpm.toFixed(1)} BPM`}
        {sound.key !== null && `, ${sound.key}`}
      </span>
      <label>
        tags
        <input
          className="form-control form-control-sm"
          value={tags}
          placeholder="dark, club"
          onChange={(event) => setTags(event.target.value)}
          onBlur={put}
          onKeyDown={(event) => event.key === "Enter" && put()}
        />
      </label>
      <label>
        note
        <input
          className="form-control form-control-sm"
          value={comment}
          onChange={(event) => setComment(event.target.value)}
          onBlur={put}
          onKeyDown={(event) => event.key === "Enter" && put()}
        />
      </label>
    </section>
  );
}
