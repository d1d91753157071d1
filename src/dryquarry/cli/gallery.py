"""gallery: what entrants made, as files, with an index and contact sheets."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

import click

from dryquarry.cli.options import (
    examples,
    hint,
    hints,
    open_workspace,
    reference_argument,
    selection_options,
    workspace_option,
)
from dryquarry.errors import UsageFault

if TYPE_CHECKING:
    from dryquarry.workspace.selection import Selection


@examples(
    "dryquarry gallery station-board --out made",
    "dryquarry gallery station-board --question tide-page -e curlew --out made",
)
@click.command()
@reference_argument
@selection_options
@click.option("--out", type=click.Path(path_type=Path, file_okay=False), required=True, help="The folder to write.")
@workspace_option
def gallery(reference: str, selection: Selection, out: Path, workspace: Path | None) -> None:
    """Write what entrants made (programs, queries, pages, drawings) into a folder, with an index and contact sheets.

    The folder must be new, empty, or an earlier gallery. Pages in it open in a frame that reaches no network.
    """
    from dryquarry.showing.folders import write_folder
    from dryquarry.showing.gallery import INDEX, gallery_files

    opened = open_workspace(workspace)
    shelves = opened.gallery(reference, selection=selection)
    if not shelves:
        raise UsageFault(
            f"nothing that replies to {reference} made is to be shown: no question of these is run or opened"
        )
    title = opened.suites.get(reference).title
    files = gallery_files(shelves, title, date.today().isoformat())
    write_folder(out, "gallery", files)
    sheets = sum(path.count("/") == 0 and path.endswith(".png") for path in files)
    hint(f"wrote {len(files)} files into {out}: open {out / INDEX}; contact sheets: {sheets}")
    hints(opened.notices([reference]))
