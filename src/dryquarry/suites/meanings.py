"""What people mean by fields that stand in the wrong place or are called otherwise here."""

from __future__ import annotations

from collections.abc import Mapping

_ASK = "the text of a question is `ask`"
_KEY = "the right answer is `key`"
_TOLERANCE = "a tolerance stands in `mark`: `{scheme: number, abs: 0.01}` for a distance, `rel: 0.01` for a share"
_ENTRANT = "what model is asked, and how, stands in entrants.toml, not in a suite"

QUESTION_MEANINGS: Mapping[str, str] = {
    **dict.fromkeys(("prompt", "question", "text", "task", "problem", "input"), _ASK),
    **dict.fromkeys(("answer", "answers", "expected", "solution", "correct", "target", "result"), _KEY),
    **dict.fromkeys(("tolerance", "epsilon", "precision", "abs", "rel", "places", "range"), _TOLERANCE),
    **dict.fromkeys(("model", "temperature", "max_tokens", "top_p", "seed", "endpoint"), _ENTRANT),
    **dict.fromkeys(("choices", "alternatives"), "what is to choose from is `options`"),
    **dict.fromkeys(("explanation", "rationale", "reasoning", "note"), "how the key is reached is `why`"),
    **dict.fromkeys(("topic", "subject", "area"), "the group that a question's score is shown in is `category`"),
    **dict.fromkeys(("points", "score"), "how much a question counts is `weight`"),
    **dict.fromkeys(("difficulty",), "how hard a question is is `level`"),
    **dict.fromkeys(("unit", "decimal", "case", "partial", "rules", "rubric", "parts", "pass_at", "out_of"),
                    "how a reply is marked stands in `mark`, such as `mark: {scheme: number, unit: kg}`"),
    **dict.fromkeys(("scheme", "type"), "the way of marking is `mark: {scheme: number}`"),
    "system": "the system text is the suite's: `ask: {system: …}` in suite.yaml",
    "name": "what a question is called is `id`",
}  # fmt: skip
SUITE_MEANINGS: Mapping[str, str] = {
    **dict.fromkeys(("model", "models", "temperature", "max_tokens", "top_p", "seed", "endpoint"), _ENTRANT),
    **dict.fromkeys(("system", "system_prompt", "prompt"), "the system text is `ask: {system: …}`"),
    "answer_line": 'the answer line is `ask: {answer_line: "Answer:"}`',
    **dict.fromkeys(("scheme",), "the way of marking is `mark: {scheme: number}`"),
    **dict.fromkeys(("tolerance", "epsilon", "precision"), _TOLERANCE),
    **dict.fromkeys(("name", "id"), "a suite is called as its folder; for people it has a `title`"),
    "description": "what a suite is about is `about`",
    **dict.fromkeys(("items", "tasks", "examples", "data"), "the questions stand in `questions`"),
    "judge": "judges stand in entrants.toml as [judge.NAME]; a question names one of several with `judge` in `mark`",
}
_REQUEST = "what goes into the request stands in `settings = {temperature = 0.0, …}`"
_SECRET = "a key never stands in a file: `key_env` is the NAME of the environment variable that holds it"
_LIMITS = "how hard a service is asked stands in `limits = {in_flight = 8, timeout_s = 120}`"
_TRAITS = "what is known of a model stands in `traits = {reasoning = true}`, what tells builds apart in `build`"
ENTRANT_MEANINGS: Mapping[str, str] = {
    **dict.fromkeys(("temperature", "max_tokens", "max_completion_tokens", "top_p", "seed", "stop"), _REQUEST),
    **dict.fromkeys(("url", "base_url", "host", "address"), "the address of the service is `endpoint`"),
    **dict.fromkeys(("api_key", "key", "token", "secret"), _SECRET),
    **dict.fromkeys(("prompt", "system_prompt"), "the text put before the suite's own system text is `system`"),
    **dict.fromkeys(("timeout", "timeout_s", "retries", "concurrency", "in_flight", "per_minute", "rate"), _LIMITS),
    **dict.fromkeys(("cost", "prices", "pricing"), "a million tokens cost `price = {input = 0.2, output = 0.8}`"),
    **dict.fromkeys(("reasoning", "size", "quantization", "open_weights"), _TRAITS),
    **dict.fromkeys(("name", "id"), "an entrant is called as its heading, [entrant.NAME]; `title` is for people"),
    "streaming": "whether replies are streamed is `stream`",
}
