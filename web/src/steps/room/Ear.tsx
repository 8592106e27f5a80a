import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { judging, type EarQuestion, type EarSkill, type EarTold } from "../../api/judging";
import { useDesk } from "../../track/context";

const size = (value: number) => (value < 10 ? value.toFixed(1) : value.toFixed(0));

/** Questions made of the track, as hard as the ear is good: two right answers and the next is harder. */
export function Ear() {
  const { state, say, listening, warn } = useDesk();
  const { player } = listening;
  const queries = useQueryClient();
  const skills = useQuery({ queryKey: ["ear"], queryFn: judging.skills });
  const [skill, setSkill] = useState<EarSkill["id"] | null>(null);
  const [question, setQuestion] = useState<EarQuestion | null>(null);
  const [told, setTold] = useState<EarTold | null>(null);
  const box = useRef<HTMLElement>(null);
  const failed = (error: Error) => say(error.message);
  // The button that was pressed is gone: who came by keyboard goes on from here.
  useEffect(() => {
    if (question) box.current?.focus();
  }, [question]);
  const ask = (wish: EarSkill["id"]) => {
    setSkill(wish);
    setTold(null);
    // One thing is to be heard at a time.
    if (listening.playing) listening.toggle();
    judging.earAsk(wish, state).then(setQuestion).catch(failed);
  };
  const hear = (sound: number) => {
    if (!question) return;
    warn();
    judging
      .earSound(question.id, sound)
      .then((wav) => player.once(wav))
      .catch(failed);
  };
  const answer = (n: number) => {
    if (!question) return;
    judging
      .earAnswer(question.id, n)
      .then((now) => {
        setTold(now);
        void queries.invalidateQueries({ queryKey: ["ear"] });
      })
      .catch(failed);
  };
  if (question && skill)
    return (
      <section className="ear-trainer" aria-label="Ear trainer" tabIndex={-1} ref={box}>
        <p>
          <strong>{question.asked}</strong>{" "}
          <span className="why">
            They are {size(question.difference)} {skills.data?.find(({ id }) => id === skill)?.unit}{" "}
            apart.
          </span>
        </p>
        <ButtonGroup aria-label="What is heard">
          {question.sounds.map((name, n) => (
            <Button key={name} variant="outline-secondary" onClick={() => hear(n)}>
              ▸ {name}
            </Button>
          ))}
        </ButtonGroup>
        {!told && (
          <ButtonGroup aria-label="What it is">
            {question.answers.map((name, n) => (
              <Button key={name} onClick={() => answer(n)}>
                {name}
              </Button>
            ))}
          </ButtonGroup>
        )}
        {told && (
          <>
            <p role="status">
              {told.right ? "Right." : `No: it was ${told.was}.`} Next:{" "}
              {size(told.skill.difference)} {told.skill.unit}.
            </p>
            <Button autoFocus onClick={() => ask(skill)}>
              Next question
            </Button>
          </>
        )}
        <Button variant="outline-secondary" onClick={() => setQuestion(null)}>
          Leave
        </Button>
      </section>
    );
  return (
    <table className="values ear-skills">
      <thead>
        <tr>
          <th scope="col">skill</th>
          <th scope="col">you hear</th>
          <th scope="col">next</th>
          <th scope="col">right</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {skills.data?.map((one) => (
          <tr key={one.id}>
            <th scope="row">{one.name}</th>
            <td title="The difference that you hear in seven of ten">
              {one.threshold === null ? "not known yet" : `${size(one.threshold)} ${one.unit}`}
            </td>
            <td>
              {size(one.difference)} {one.unit}
            </td>
            <td>
              {one.right} of {one.answered}
            </td>
            <td className="acts">
              <Button
                size="sm"
                variant="outline-primary"
                aria-label={`Train: ${one.name}`}
                onClick={() => ask(one.id)}
              >
                Train
              </Button>
              <Button
                size="sm"
                variant="outline-secondary"
                disabled={one.answered === 0}
                aria-label={`Begin again: ${one.name}`}
                onClick={() =>
                  void judging
                    .earAgain(one.id)
                    .then(() => queries.invalidateQueries({ queryKey: ["ear"] }))
                    .catch(failed)
                }
              >
                begin again
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
