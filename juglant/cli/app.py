"""The application of the shell: a command's module is read when that command is called, and not before."""

import ast
from importlib import import_module
from pathlib import Path
from typing import Any, NamedTuple

import typer
from typer.core import TyperCommand, TyperGroup
from typer.main import get_command_from_info, get_group

# Where commands are, in the order in which they are told.
_MODULES = (
    "serving",
    "measuring",
    "compare",
    "hits",
    "loops",
    "lowend",
    "solving",
    "designing",
    "matching",
    "check",
    "handing",
    "kits",
    "parcels",
    "studio",
)


# Groups of commands: where they are, and what they say of themselves.
GROUPS = {"stock": "Folders of your own sounds: measured once, found by what the track needs."}


class _Told(NamedTuple):
    """What is known of a command without reading its module: where it is, and what it says of itself."""

    module: str
    function: str
    help: str


def _told() -> dict[str, _Told]:
    """Every command, read off the modules' text."""
    found = {}
    for module in _MODULES:
        source = Path(__file__).with_name(f"{module}.py").read_text("utf-8")
        for node in ast.parse(source).body:
            if isinstance(node, ast.FunctionDef) and (name := _name(node)) is not None:
                found[name] = _Told(module, node.name, ast.get_docstring(node) or "")
    return found


def _name(node: ast.FunctionDef) -> str | None:
    """What a function is called as a command; None where it is none."""
    for by in node.decorator_list:
        if isinstance(by, ast.Call) and ast.unparse(by.func) == "app.command":
            return str(ast.literal_eval(by.args[0])) if by.args else node.name
    return None


# At once, before any other thread is: two that read a tree at one time lose count of each other's depth.
_COMMANDS = _told()


class _Later(TyperGroup):
    """Knows all commands, and reads the modules of those that are called."""

    _listing = False

    def list_commands(self, ctx: Any) -> list[str]:
        return [*_COMMANDS, *GROUPS]

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        if cmd_name in GROUPS:
            if self._listing:
                return TyperCommand(cmd_name, help=GROUPS[cmd_name])
            return get_group(import_module(f"juglant.cli.{cmd_name}").group)
        told = _COMMANDS.get(cmd_name)
        if told is None:
            return None
        if self._listing:
            return TyperCommand(cmd_name, help=told.help)
        function = getattr(import_module(f"juglant.cli.{told.module}"), told.function)
        info = next(one for one in app.registered_commands if one.callback is function)
        return get_command_from_info(
            info, pretty_exceptions_short=False, rich_markup_mode=self.rich_markup_mode
        )

    def format_help(self, ctx: Any, formatter: Any) -> None:
        self._listing = True
        try:
            super().format_help(ctx, formatter)
        finally:
            self._listing = False


app = typer.Typer(
    help="Measure, tune, cut, align and duck kicks, hits and basses; serve the application.",
    add_completion=False, pretty_exceptions_enable=False, no_args_is_help=True, cls=_Later,
)  # fmt: skip


# Without it an application that has read no command yet would not be taken for one of several.
@app.callback()
def _all() -> None:
    """Measure, tune, cut, align and duck kicks, hits and basses; serve the application."""
