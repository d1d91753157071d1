"""report: a folder of static pages, or one page, to hand over."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli import completion
from dryquarry.cli.options import examples, hint, hints, open_workspace, workspace_option
from dryquarry.errors import UsageFault

# Larger pages take a browser long to open, and a mail does not take them.
LARGEST_SINGLE_MB = 15.0


@examples(
    "dryquarry report tide-sums --out report",
    "dryquarry report tide-sums lamp-logic --baseline godwit --out report",
    "dryquarry report tide-sums --single tide-sums.html",
    "dryquarry report tide-sums --anonymous --without questions --out report",
)
@click.command()
@click.argument("references", nargs=-1, required=True, metavar="SUITE[@N]...", shell_complete=completion.references)
@click.option("--out", type=click.Path(path_type=Path, file_okay=False), help="The folder to write.")
@click.option("--single", type=click.Path(path_type=Path, dir_okay=False), help="Write one page instead, to this file.")
@click.option("--title", help="What the report is called, if not after its suites.")
@click.option("--baseline", metavar="NAME", help="Compare every other entrant with this one.")
@click.option("--without", multiple=True, type=click.Choice(["questions", "replies"]),
              help="Leave texts out: of replies, or of questions and so of replies, too.")  # fmt: skip
@click.option("--anonymous", is_flag=True, help="Show entrants as A, B, …")
@click.option("--force", is_flag=True, help="Make every page anew, not only those of which something changed.")
@workspace_option
def report(
    references: tuple[str, ...],
    out: Path | None,
    single: Path | None,
    title: str | None,
    baseline: str | None,
    without: tuple[str, ...],
    anonymous: bool,
    force: bool,
    workspace: Path | None,
) -> None:
    """Write a report of static pages: from boards and grids to every question and the replies behind the numbers.

    It opens from a disk or any web server, and asks no network. The folder must be new, empty, or an earlier report.
    """
    from dryquarry.showing.folders import check_folder, kept_in, write_file, write_folder
    from dryquarry.showing.report.making import site_of
    from dryquarry.workspace.redacting import Redaction

    if (out is None) == (single is None):
        raise UsageFault("name --out DIR for a folder of pages, or --single FILE for one page")
    if out is not None:
        check_folder(out, "report")
    redaction = Redaction("questions" not in without, "replies" not in without, anonymous)
    opened = open_workspace(workspace)
    content = opened.report(references, redaction, baseline)
    site = site_of(content, title)
    hints(opened.notices(references))
    if single is not None:
        page = site.single()
        if len(page) > LARGEST_SINGLE_MB * 1e6:
            raise UsageFault(
                f"one page would be {len(page) / 1e6:.1f} MB, more than {LARGEST_SINGLE_MB:g}; use --out DIR, which a "
                "browser opens page by page, or leave something out"
            )
        write_file(single, page)
        hint(f"wrote {single}: {len(page) / 1e6:.1f} MB")
        return
    assert out is not None
    kept = {} if force else kept_in(out, "report")
    made = list(site.folder(kept))
    write_folder(out, "report", {path: content for path, _, content in made}, {path: key for path, key, _ in made})
    new = sum(content is not None and kept.get(path) != key for path, key, content in made)
    hint(f"wrote {len(made)} files into {out}, {new} of them anew: open {out / 'index.html'}")
