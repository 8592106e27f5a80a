"""The ear trainer: what is asked next, what it sounds like, and whether it was heard."""

import itertools
import json
from collections import OrderedDict
from threading import Lock
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Path, Request
from pydantic import BaseModel, Field

from juglant.api.inputs import Input
from juglant.api.media import Wav
from juglant.api.studio import AtDesk, Desk
from juglant.core import RATE
from juglant.core.ear.questions import SKILLS, Question, Skill
from juglant.core.ear.staircase import Staircase, after, threshold
from juglant.core.errors import NotFoundError
from juglant.core.recipes.track import TrackState
from juglant.files.audio import encode_wav24
from juglant.store import ear

router = APIRouter(prefix="/api/ear", tags=["ear"])

SkillId = Literal["note", "cents", "ducking", "late", "polarity", "band"]
_BY_ID = {skill.id: skill for skill in SKILLS}
QuestionId = Annotated[int, Path(ge=1, le=2**31)]
# So many questions wait for their answers.
_MOST = 32


class Asking:
    """The questions that were asked last. Safe to share by threads."""

    def __init__(self) -> None:
        self._lock, self._numbers = Lock(), itertools.count(1)
        self._asked: OrderedDict[int, tuple[str, Question]] = OrderedDict()

    def note(self, skill: str, question: Question) -> int:
        """A question that waits for its answer, by its number."""
        with self._lock:
            number = next(self._numbers)
            self._asked[number] = skill, question
            while len(self._asked) > _MOST:
                self._asked.popitem(last=False)
            return number

    def get(self, id: int, *, answered: bool = False) -> tuple[str, Question]:
        """A question; once it is answered it is gone. NotFoundError where it is."""
        with self._lock:
            found = self._asked.pop(id, None) if answered else self._asked.get(id)
        if found is None:
            raise NotFoundError("This question was answered already, or asked too long ago.")
        return found


class SkillView(BaseModel):
    """A skill: the difference that is asked next, how many answers were right, and the difference that is
    heard in 70.7 %, null until that has been found.
    """

    id: SkillId
    name: str
    unit: str
    difference: float
    answered: int
    right: int
    threshold: float | None


class AskedView(BaseModel):
    """A question: what the buttons of its sounds say, and what may be answered."""

    id: int
    asked: str
    difference: float
    sounds: list[str]
    answers: list[str]


class Answer(Input):
    """Which of the answers."""

    answer: Annotated[int, Field(ge=0, le=20)]


class Told(BaseModel):
    """Whether it was right, what would have been, and where the skill stands now."""

    right: bool
    was: str
    skill: SkillView


def _asking(request: Request) -> Asking:
    found = request.app.state.asking
    assert isinstance(found, Asking)
    return found


def _stairs(skill: Skill, kept: dict[str, str]) -> Staircase:
    body = kept.get(skill.id)
    if body is None:
        return Staircase(skill.easiest)
    told = json.loads(body)
    return Staircase(**{**told, "turns": tuple(told["turns"])})


def _view(skill: Skill, stairs: Staircase) -> SkillView:
    return SkillView(
        id=skill.id, name=skill.name, unit=skill.unit, difference=stairs.difference,
        answered=stairs.answered, right=stairs.right, threshold=threshold(stairs),
    )  # fmt: skip


def _kept(desk: Desk) -> dict[str, str]:
    with desk.studio.reading() as db:
        return ear.everything(db)


@router.get("")
def skills(desk: AtDesk) -> list[SkillView]:
    """Every skill and how far it has come."""
    kept = _kept(desk)
    return [_view(skill, _stairs(skill, kept)) for skill in SKILLS]


@router.post("/{skill}/ask")
def ask_question(desk: AtDesk, request: Request, skill: SkillId, state: TrackState) -> AskedView:
    """The next question of a skill, made of a track."""
    one = _BY_ID[skill]
    difference = _stairs(one, _kept(desk)).difference
    question = one.made(desk.session, state, difference, np.random.default_rng())
    id = _asking(request).note(skill, question)
    return AskedView(
        id=id, asked=question.asked, difference=difference, sounds=list(question.sounds),
        answers=question.answers,
    )  # fmt: skip


@router.get("/questions/{question_id}/{sound}", response_class=Wav)
def question_sound(
    request: Request, question_id: QuestionId, sound: Annotated[int, Path(ge=0, le=20)]
) -> Wav:
    """One of a question's sounds, as a WAV file."""
    _, question = _asking(request).get(question_id)
    sounds = list(question.sounds.values())
    if sound >= len(sounds):
        raise NotFoundError("This question has no such sound.")
    x = sounds[sound]
    peak = float(np.max(np.abs(x), initial=0.0))
    return Wav(encode_wav24(x / max(peak, 1.0), RATE))


@router.post("/questions/{question_id}")
def answer_question(desk: AtDesk, request: Request, question_id: QuestionId, given: Answer) -> Told:
    """Answer a question, once; the next one is as hard as that leaves it."""
    skill_id, question = _asking(request).get(question_id, answered=True)
    skill, right = _BY_ID[skill_id], given.answer == question.right
    with desk.studio.changing() as db:
        stairs = after(
            _stairs(skill, ear.everything(db)), right=right, hardest=skill.hardest, easiest=skill.easiest
        )
        ear.keep(db, skill.id, json.dumps(stairs._asdict()))
    return Told(right=right, was=question.answers[question.right], skill=_view(skill, stairs))


@router.delete("/{skill}", status_code=204)
def begin_again(desk: AtDesk, skill: SkillId) -> None:
    """Forget how far a skill has come."""
    with desk.studio.changing() as db:
        ear.forget(db, skill)
