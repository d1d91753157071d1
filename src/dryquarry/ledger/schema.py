"""The tables of the ledger, and their number.

Digests are 64-character texts; each is stored once (in `asks`, `markings`, `sitters`) and meant by its row's
integer elsewhere, which keeps a ledger of a million replies small and its joins fast.

Schema history:
    1  first release
    2  `editions`: a copy of each sealed edition that was run
    3  `replies.tokens_estimated`, `replies.tries` and `replies.earlier_turns`
    4  second tries (`replies.follows`), `replies.fingerprint`; `sittings` tell their times and settings
    5  marks tell where the answer stands, whether its form was kept, who set them and why they were superseded; `voids`
    6  marks tell where the answer ends, by which rule it stands, whether they are sure, who gave them, and the outcome
    7  `sittings.fresh_since`: since when replies count as held, where everything is asked anew
    8  `seals`, and the seal of each row: what was changed by hand is found
    9  verdicts tell their request and how often the judge was asked; `audits`, `draws`, `decisions` and `votes`
    10 `results` and `pictures`: what came of running what replies hold
"""

from __future__ import annotations

from sqlalchemy import (
    Boolean,
    Column,
    Float,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    String,
    Table,
    Text,
    text,
)

SCHEMA_NUMBER = 10

metadata = MetaData()

about = Table(
    "about",
    metadata,
    Column("name", String(40), primary_key=True, comment="'schema' or 'made_by'"),
    Column("value", Text, nullable=False),
)


seals = Table(
    "seals",
    metadata,
    Column("name", String(40), primary_key=True, comment="a table"),
    Column("rows", Integer, nullable=False, comment="how many rows it has"),
    Column("total", String(32), nullable=False, comment="the sum of their seals modulo 2^128, in hexadecimal"),
    comment="what tells that no row was taken away, slipped in or changed by hand",
)


def _seal() -> Column[str]:
    return Column("seal", String(32), comment="a digest of all that the row holds")


def _by_digest(name: str, comment: str) -> Table:
    return Table(
        name,
        metadata,
        Column("id", Integer, primary_key=True),
        Column("digest", String(64), nullable=False, unique=True),
        Column("content", Text, nullable=False, comment="canonical JSON that the digest is of"),
        comment=comment,
    )


asks = _by_digest("asks", "what reached models from suites, by ask digest")
markings = _by_digest("markings", "keys, schemes and rubrics, by mark digest")
sitters = _by_digest("sitters", "models with settings, by entrant digest")

runs = Table(
    "runs",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("suite", Text, nullable=False),
    Column("edition", Text, nullable=False),
    Column("started_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    Column("ended_at", String(32), comment="absent when the run was killed"),
    Column("tool_version", String(20), nullable=False),
    _seal(),
    comment="one asking of a suite by one or more entrants",
)

sittings = Table(
    "sittings",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("run_id", ForeignKey("runs.id"), nullable=False),
    Column("sitter_id", ForeignKey("sitters.id"), nullable=False),
    Column("entrant", Text, nullable=False, comment="the name it had in entrants.toml"),
    Column("endpoint", Text),
    Column("settings", Text, comment="JSON: all that entrants.toml said of the entrant, and the suite's system text"),
    Column("started_at", String(32), comment="UTC, ISO 8601"),
    Column("ended_at", String(32), comment="absent when the run was killed"),
    Column("fresh_since", String(32), comment="where all is asked anew: since when replies count as held for that"),
    _seal(),
    comment="one entrant's part of a run",
)

editions = Table(
    "editions",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("suite", Text, nullable=False),
    Column("number", Integer, nullable=False),
    Column("digest", String(64), nullable=False, comment="the edition digest of its header"),
    Column("content", Text, nullable=False, comment="the edition's file as it was sealed"),
    Column("noted_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    _seal(),
    comment="sealed editions, copied when first run",
)
Index("one_content_per_edition", editions.c.suite, editions.c.number, unique=True)

replies = Table(
    "replies",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("ask_id", ForeignKey("asks.id"), nullable=False),
    Column("sitter_id", ForeignKey("sitters.id"), nullable=False),
    Column("trial", Integer, nullable=False),
    Column("sitting_id", ForeignKey("sittings.id"), nullable=False),
    Column("current", Boolean, nullable=False, comment="false once another reply took its place"),
    Column("outcome", String(12), nullable=False),
    Column("text", Text, nullable=False),
    Column("reasoning", Text),
    Column("finish", Text, comment="the service's own word for how it ended"),
    Column("cause", Text, comment="why the outcome is not 'answered'"),
    Column("seconds", Float, comment="from sending to the last byte"),
    Column("first_token_s", Float),
    Column("input_tokens", Integer),
    Column("output_tokens", Integer),
    Column("served_model", Text, comment="the model name that the service itself reports"),
    Column("tokens_estimated", Boolean, comment="true when the service did not count the output tokens"),
    Column("tries", Integer, comment="how many requests it took"),
    Column("earlier_turns", Text, comment="JSON: the replies to the turns before the last"),
    Column("received_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    Column("fingerprint", Text, comment="what the service says of the build that answered"),
    Column("follows", ForeignKey("replies.id"), comment="the first try that this second try was made after"),
    _seal(),
    comment="everything that came back for one asking",
)
Index("second_tries", replies.c.follows, sqlite_where=text("follows IS NOT NULL"))
Index("replies_of_sitting", replies.c.sitting_id)
Index(
    "one_current_reply",
    replies.c.sitter_id,
    replies.c.ask_id,
    replies.c.trial,
    unique=True,
    sqlite_where=text("current = 1"),
)

marks = Table(
    "marks",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("reply_id", ForeignKey("replies.id"), nullable=False),
    Column("marking_id", ForeignKey("markings.id"), nullable=False),
    Column("current", Boolean, nullable=False, comment="false once another mark took its place"),
    Column("score", Float, comment="in [0, 1]; absent while open or void"),
    Column("verdict", String(8), nullable=False),
    Column("reason", Text, nullable=False),
    Column("answer", Text, comment="the part of the reply read as its final answer"),
    Column("read_by", Text, comment="how that part was found"),
    Column("answer_start", Integer, comment="at which character of the reply it begins"),
    Column("answer_end", Integer, comment="before which character of the reply it ends"),
    Column("rule", Text, comment="the rule by which that part is the final answer"),
    Column("form_kept", Boolean, comment="whether it stands where it was asked for; absent where nothing was asked"),
    Column("sure", Boolean, comment="false where another defensible reading would flip the verdict"),
    Column("unsure_because", Text, comment="which reading that is"),
    Column("marked_by", Text, comment="scheme, or the name of the judge or person who gave it"),
    Column("because", Text, comment="why a person set this mark; absent for marks by scheme or judge"),
    Column("outcome", String(12), comment="how the asking ended, once the text was read"),
    Column("superseded_because", Text, comment="why another mark took its place"),
    Column("marked_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    Column("tool_version", String(20), nullable=False),
    _seal(),
    comment="marks, never deleted",
)
Index(
    "one_current_mark",
    marks.c.reply_id,
    marks.c.marking_id,
    unique=True,
    sqlite_where=text("current = 1"),
)

voids = Table(
    "voids",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("suite", Text, nullable=False),
    Column("question", Text, nullable=False),
    Column("marking_id", ForeignKey("markings.id"), nullable=False),
    Column("because", Text, nullable=False),
    Column("since", String(32), nullable=False, comment="UTC, ISO 8601"),
    Column("taken_back_at", String(32), comment="absent while the question is void"),
    _seal(),
    comment="questions that count for nobody while they are marked so",
)

verdicts = Table(
    "verdicts",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("reply_id", ForeignKey("replies.id"), nullable=False),
    Column("marking_id", ForeignKey("markings.id"), nullable=False),
    Column("judge_id", ForeignKey("sitters.id"), nullable=False),
    Column("judge", Text, nullable=False, comment="the name it had in entrants.toml"),
    Column("text", Text, nullable=False, comment="the judge's last answer, as it came"),
    Column("points", Text, comment="JSON; absent when the answer was unreadable"),
    Column("problem", Text, comment="what was amiss with an unreadable answer"),
    Column("attempts", Integer, nullable=False),
    Column("seconds", Float, nullable=False),
    Column("input_tokens", Integer),
    Column("output_tokens", Integer),
    Column("received_at", String(32), nullable=False),
    Column("time", Integer, comment="the how manieth judgement of the reply by this judge, from 1"),
    Column("request_digest", String(64), comment="of all that the judge was shown beside the reply"),
    Column("request", Text, comment="the message that the judge was sent"),
    Column("steering", Text, comment="JSON: in which ways the reply speaks to its judge"),
    Column("again", Boolean, comment="true where it was asked to measure the judge, not for the mark"),
    _seal(),
    comment="what judges said of replies",
)
Index("verdicts_of_reply", verdicts.c.reply_id, verdicts.c.marking_id)

audits = Table(
    "audits",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("suite", Text, nullable=False),
    Column("edition", Text, nullable=False),
    Column("seed", Integer, nullable=False, comment="of the random order"),
    Column("drawn_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    _seal(),
    comment="random samples of judges' marks, for people to mark again",
)

draws = Table(
    "draws",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("audit_id", ForeignKey("audits.id"), nullable=False),
    Column("reply_id", ForeignKey("replies.id"), nullable=False),
    Column("marking_id", ForeignKey("markings.id"), nullable=False),
    Column("stratum", Text, nullable=False, comment="the entrant, the judges' verdict, and whether they agree"),
    Column("stratum_size", Integer, nullable=False, comment="how many replies it was drawn from"),
    Column("probability", Float, nullable=False, comment="with which it was drawn"),
    _seal(),
    comment="the replies of an audit",
)
Index("draws_of_reply", draws.c.reply_id)

decisions = Table(
    "decisions",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("reply_id", ForeignKey("replies.id"), nullable=False),
    Column("marking_id", ForeignKey("markings.id"), nullable=False),
    Column("person", Text, nullable=False),
    Column("verdict", String(8), nullable=False),
    Column("score", Float),
    Column("points", Text, comment="JSON: the points by criterion, where they were given"),
    Column("note", Text),
    Column("why_asked", String(12), nullable=False, comment="open, unsure, audit, disputed, second or repeat"),
    Column("seconds", Float, comment="from showing to deciding"),
    Column("decided_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    Column("taken_back_at", String(32), comment="absent while it stands"),
    _seal(),
    comment="what people decided at the marking desk; never deleted",
)
Index("decisions_of_reply", decisions.c.reply_id, decisions.c.marking_id)

votes = Table(
    "votes",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("suite", Text, nullable=False),
    Column("edition", Text, nullable=False),
    Column("ask_id", ForeignKey("asks.id"), nullable=False),
    Column("first_id", ForeignKey("replies.id"), nullable=False, comment="the reply that was shown first"),
    Column("second_id", ForeignKey("replies.id"), nullable=False),
    Column("choice", String(8), nullable=False, comment="first, second, tie or both-bad"),
    Column("by", Text, nullable=False, comment="the person's or the judge's name"),
    Column("by_judge", Boolean, nullable=False),
    Column("order_known", Boolean, nullable=False, comment="false where nobody says which was shown first"),
    Column("because", Text),
    Column("seconds", Float, comment="from showing to voting"),
    Column("cost", Float, comment="what the judge cost"),
    Column("voted_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    Column("taken_back_at", String(32), comment="absent while it stands"),
    _seal(),
    comment="judgements between two replies to the same question",
)
Index("votes_of_ask", votes.c.ask_id)

results = Table(
    "results",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("job", String(64), nullable=False, comment="the digest of the work and of what went into its run"),
    Column("runtime", Text, nullable=False, comment="with what it was run, with its version"),
    Column("content", Text, nullable=False, comment="JSON: what came of each test"),
    Column("ran_at", String(32), nullable=False, comment="UTC, ISO 8601"),
    _seal(),
    comment="what came of running the programs and queries in replies",
)
Index("results_of_job", results.c.job)

pictures = Table(
    "pictures",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("digest", String(64), nullable=False, unique=True, comment="of the PNG"),
    Column("png", Text, nullable=False, comment="the PNG in base64"),
    _seal(),
    comment="pictures of what replies made, taken as they were run",
)
