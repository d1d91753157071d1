"""What full screens share: the person's own colours, and errors that are told like all others."""

from __future__ import annotations

from typing import ClassVar

from textual.app import App
from textual.widgets import Input

# Names of the theme that takes the terminal's own colours, in several versions of the library.
OWN_COLOURS = ("ansi-dark", "textual-ansi")


class FullScreen(App[None]):
    """A screen in the terminal's own colours, light or dark."""

    ENABLE_COMMAND_PALETTE = False
    BINDINGS: ClassVar = []
    # Keys are the screen's own until a line to write on is opened.
    AUTO_FOCUS = ""

    def use_own_colours(self) -> None:
        """Take the terminal's colours."""
        theme = next((name for name in OWN_COLOURS if name in self.available_themes), None)
        if theme is not None:
            self.theme = theme

    def open_line(self, text: str, placeholder: str) -> None:
        """Open the line at the bottom for a person to write on."""
        line = self.query_one("#line", Input)
        line.placeholder, line.value, line.disabled = placeholder, text, False
        line.set_class(True, "open")
        line.focus()

    def shut_line(self) -> None:
        """Close the line; keys are the screen's own again."""
        line = self.query_one("#line", Input)
        line.set_class(False, "open")
        line.disabled = True
        self.set_focus(None)

    def show_screen(self) -> None:
        """Run until the person quits; raises what went wrong, after the terminal is as it was."""
        self.run()
        error = self._exception
        if error is not None:
            raise error

    def _print_error_renderables(self) -> None:
        """Print no traceback: the error is raised again, for the one place where errors become text."""
        self._exit_renderables.clear()
