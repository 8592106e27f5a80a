import { expect, test } from "vitest";
import { Latest } from "./latest";

function setup() {
  const asked: number[] = [];
  const waiting: ((value: string) => void)[] = [];
  const answers: string[] = [];
  const failures: unknown[] = [];
  const latest = new Latest<number, string>(
    (question) => {
      asked.push(question);
      return new Promise((resolve, reject) =>
        waiting.push((value) => (value === "!" ? reject(new Error("no")) : resolve(value))),
      );
    },
    (answer, question) => answers.push(`${question}:${answer}`),
    (error) => failures.push(error),
  );
  return { asked, waiting, answers, failures, latest };
}

const settle = () => new Promise((resolve) => setTimeout(resolve));

test("only the latest of the questions asked meanwhile is sent", async () => {
  const { asked, waiting, answers, latest } = setup();
  for (const question of [1, 2, 3, 4]) latest.ask(question);
  expect(asked).toEqual([1]);
  waiting[0]?.("a");
  await settle();
  expect(asked).toEqual([1, 4]);
  waiting[1]?.("b");
  await settle();
  expect(answers).toEqual(["1:a", "4:b"]);
});

test("after a failure the next question is sent", async () => {
  const { asked, waiting, answers, failures, latest } = setup();
  latest.ask(1);
  latest.ask(2);
  waiting[0]?.("!");
  await settle();
  expect(failures).toHaveLength(1);
  waiting[1]?.("b");
  await settle();
  latest.ask(5);
  expect(asked).toEqual([1, 2, 5]);
  expect(answers).toEqual(["2:b"]);
});
