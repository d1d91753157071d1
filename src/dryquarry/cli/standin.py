"""standin serve."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import examples, hint


@click.group()
def standin() -> None:
    """Serve the simulated model service on a port."""


@examples(
    "dryquarry standin serve --port 8300",
    "dryquarry standin serve --faults faults.toml",
)
@standin.command()
@click.option("--port", type=click.IntRange(0, 65535), default=8300, show_default=True, help="0 takes a free one.")
@click.option("--reply-s", type=click.FloatRange(min=0), help="Seconds each reply takes (default: by model).")
@click.option("--key", help="Refuse requests without this key.")
@click.option(
    "--bank",
    "banks",
    multiple=True,
    type=click.Path(exists=True, dir_okay=False, path_type=Path),
    help="Answer from this TOML bank instead of the demo's.",
)
@click.option(
    "--faults",
    type=click.Path(exists=True, dir_okay=False, path_type=Path),
    help="Misbehave by the plan in this TOML file.",
)
def serve(port: int, reply_s: float | None, key: str | None, banks: tuple[Path, ...], faults: Path | None) -> None:
    """Serve until Ctrl-C; prints the base URL to put into entrants.toml.

    Models are those of the bank, and any name that begins with 'standin-'.
    """
    import asyncio

    from dryquarry.errors import FileFault
    from dryquarry.standin.bank import demo_bank, read_bank
    from dryquarry.standin.faults import FaultPlan, read_fault_plan
    from dryquarry.standin.server import Standin, StandinSettings, serving

    bank = read_bank((str(path), path.read_bytes()) for path in banks) if banks else demo_bank()

    plan = read_fault_plan(faults.read_bytes(), str(faults)) if faults else FaultPlan()

    async def serve_until_stopped() -> None:
        service = Standin(bank, StandinSettings(reply_s, key, plan))
        try:
            async with serving(service, port) as url:
                click.echo(url)
                await asyncio.Event().wait()
        except OSError as error:
            raise FileFault(f"port {port} cannot be used: {error.strerror}; name another with --port") from None

    try:
        asyncio.run(serve_until_stopped())
    except KeyboardInterrupt:
        hint("stopped")
