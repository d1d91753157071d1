"""Asking judges: one request per judgement, once more when the verdict is unreadable, then left open."""

from __future__ import annotations

import asyncio
import base64
import secrets
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from dryquarry.asking.calling import Line, Turn
from dryquarry.asking.door import whole_text
from dryquarry.asking.engine import Setting, most_cost
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import Message, estimated_tokens, request_body
from dryquarry.marking.judging.request import JUDGE_SYSTEM, Paper, judge_request, verdict_schema
from dryquarry.marking.judging.steering import speaks_to_judge
from dryquarry.marking.judging.verdicts import UnreadableVerdict, read_verdict
from dryquarry.marking.model import Marking
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Judged
from dryquarry.marking.registry import rubric_part
from dryquarry.marking.rubrics import Rubric
from dryquarry.suites.ask import Attachment

MOST_ATTEMPTS = 2
VERDICT_TOKENS = 20
TOKENS_A_CRITERION = 45
TOKEN_BYTES = 9
SHOWN = (
    "The last picture shows what the page or drawing in the reply looks like. Evidence is quoted from the reply's text."
)
# How services say that they take no response format.
NO_FORMAT = ("HTTP 400", "HTTP 404", "HTTP 415", "HTTP 422", "HTTP 501")


@dataclass(frozen=True, slots=True)
class ToJudge:
    """One judgement that is wanted of a reply; of `all` and `any` the rubric is one part of the marking.

    It is the `time`-th by this judge; `request_digest` is of all that the verdict depends on beside the reply and the
    judge. `images` go to a judge that takes them, and so do `pictures` of what the reply made, as PNG. One `again` is
    asked to measure the judge, not for the mark.
    """

    reply_id: int
    marking_id: int
    paper: Paper
    text: str
    marking: Marking
    request_digest: str
    time: int = 1
    images: tuple[Attachment, ...] = ()
    pictures: tuple[bytes, ...] = ()
    again: bool = False

    @property
    def rubric_marking(self) -> Marking:
        """The part of the marking that the judge marks."""
        return rubric_part(self.marking) or self.marking

    @property
    def rubric(self) -> Rubric:
        """What the judge marks by."""
        rubric = self.rubric_marking.rubric
        assert rubric is not None
        return rubric


async def judge_all(
    judge: Entrant, waiting: Sequence[ToJudge], setting: Setting, on_judged: Callable[[ToJudge, Judged], None]
) -> int:
    """Have the judge mark what waits; `on_judged` is told each verdict as it comes.

    Returns how many were left because the budget had no room for them.
    """
    desk = _Desk(judge, Line(judge, setting.endpoint, setting.transport, setting.stop), setting)
    remaining = iter(waiting)
    too_dear = 0

    async def work() -> None:
        nonlocal too_dear
        for one in remaining:
            if setting.stop.asked:
                return
            messages = desk.messages(one)
            most = MOST_ATTEMPTS * most_cost(judge, input_tokens_of(messages), verdict_tokens(one.rubric))
            if not await setting.purse.take(most):
                too_dear += 1
                continue
            judged = await desk.judged(one, messages)
            setting.purse.settle(most, 0.0 if judged is None else cost_of(judge, judged))
            if judged is not None:
                on_judged(one, judged)

    await asyncio.gather(*(work() for _ in range(min(judge.limits.in_flight, len(waiting)))))
    return too_dear


@dataclass
class _Desk:
    """One judge at work; `takes_format` is false once its service has refused a response format."""

    judge: Entrant
    line: Line
    setting: Setting
    takes_format: bool = field(default=True)

    def messages(self, one: ToJudge) -> list[Message]:
        return judge_messages(self.judge, one, self._images(one))

    def _images(self, one: ToJudge) -> list[tuple[str, bytes]]:
        if not takes_images(self.judge):
            return []
        given = [(file.media_type, self.setting.load(file)) for file in one.images]
        return given + [("image/png", picture) for picture in one.pictures]

    async def judged(self, one: ToJudge, messages: list[Message]) -> Judged | None:
        """Return what the judge said of one reply; None when stopped before it was asked."""
        started = time.perf_counter()
        input_tokens = output_tokens = 0
        request = str(messages[-1]["content"]) if isinstance(messages[-1]["content"], str) else _text_in(messages[-1])
        points, text, problem = None, "", None
        for attempt in range(1, MOST_ATTEMPTS + 1):
            turn = await self._post(messages, one.rubric, first=attempt == 1)
            if turn is None:
                return None
            received = turn.received
            input_tokens += received.input_tokens or 0
            output_tokens += received.output_tokens or 0
            text = received.text
            if received.outcome in (Outcome.FAILED, Outcome.TIMED_OUT):
                problem = received.cause
                break
            try:
                points, problem = read_verdict(text, one.rubric, one.text), None
                break
            except UnreadableVerdict as error:
                problem = whole_text(str(error))
                if received.outcome is Outcome.CUT_OFF:
                    problem = f"{problem}: the answer was cut off at the judge's token cap, which it needs more of"
                    break
                messages = [*messages, *once_more(text, problem)]
        seconds = time.perf_counter() - started
        return Judged(
            reply_id=one.reply_id,
            marking_id=one.marking_id,
            points=points,
            problem=problem,
            text=text,
            attempts=attempt,
            seconds=seconds,
            input_tokens=input_tokens,
            output_tokens=output_tokens,
            time=one.time,
            request=request,
            request_digest=one.request_digest,
            steering=speaks_to_judge(one.text, one.paper.ask, [each.id for each in one.rubric.criteria]),
            again=one.again,
        )

    async def _post(self, messages: list[Message], rubric: Rubric, *, first: bool) -> Turn | None:
        """Return what came of a request, with the schema as response format as long as the service takes one."""
        own = "response_format" in self.judge.settings
        if self.takes_format and not own:
            turn = await self.line.post(request_body(self.judge, messages, response_format(rubric)), first=first)
            cause = turn.received.cause if turn is not None else None
            if turn is None or turn.received.outcome is not Outcome.FAILED or not (cause or "").startswith(NO_FORMAT):
                return turn
            plain = await self.line.post(request_body(self.judge, messages), first=False)
            # Only where it was the format that the service minded.
            self.takes_format = plain is not None and plain.received.outcome is Outcome.FAILED
            return plain
        return await self.line.post(request_body(self.judge, messages), first=first)


def judge_messages(judge: Entrant, one: ToJudge, images: Sequence[tuple[str, bytes]] = ()) -> list[Message]:
    """Return what a judge is sent, in a fence whose token is drawn for this request."""
    system = "\n\n".join(text for text in (judge.system, JUDGE_SYSTEM) if text)
    request = judge_request(one.paper, one.text, one.rubric_marking, lambda: secrets.token_hex(TOKEN_BYTES))
    content: object = request
    if images:
        urls = [f"data:{kind};base64,{base64.b64encode(content).decode('ascii')}" for kind, content in images]
        pictures = [{"type": "image_url", "image_url": {"url": url}} for url in urls]
        shown = [{"type": "text", "text": SHOWN}] if one.pictures else []
        content = [*pictures, *shown, {"type": "text", "text": request}]
    return [{"role": "system", "content": system}, {"role": "user", "content": content}]


def verdict_tokens(rubric: Rubric) -> int:
    """Return about how many tokens a verdict by the rubric has."""
    return VERDICT_TOKENS + TOKENS_A_CRITERION * len(rubric.criteria)


def takes_images(judge: Entrant) -> bool:
    """Tell whether a judge can be shown images: `traits = {images = true}`."""
    return judge.traits.get("images") is True


def response_format(rubric: Rubric) -> dict[str, object]:
    """Return the verdict's schema as the chat-completions protocol takes it."""
    schema = {"name": "verdict", "strict": True, "schema": verdict_schema(rubric)}
    return {"response_format": {"type": "json_schema", "json_schema": schema}}


def once_more(text: str, problem: str) -> list[Message]:
    """Return what is added to ask a judge once more, with the fault named."""
    again = f"That cannot be read: {problem}. Answer with the JSON object only."
    return [{"role": "assistant", "content": text}, {"role": "user", "content": again}]


def _text_in(message: Message) -> str:
    return "".join(str(part.get("text", "")) for part in message["content"])


def input_tokens_of(messages: Sequence[Message]) -> int:
    """Return about how many tokens the messages have."""
    texts = (one["content"] if isinstance(one["content"], str) else _text_in(one) for one in messages)
    return sum(estimated_tokens(text) for text in texts)


def cost_of(judge: Entrant, judged: Judged) -> float:
    """Return what a judgement cost; 0 where the judge has no price."""
    return (judge.price.cost(judged.input_tokens, judged.output_tokens) or 0.0) if judge.price else 0.0
