"""How a line of the shell may go on: commands, options, their choices and files. Made from the commands themselves."""

from __future__ import annotations

import os
from importlib import import_module

import click
from click.shell_completion import CompletionItem, get_completion_class, shell_complete

from sobercrow.cli import COMMANDS, COMPLETE


class Commands(click.Group):
    """Every command, brought in when it is asked for; without one a file is opened in the window."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the names of the commands."""
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Return a command by its name."""
        if cmd_name not in COMMANDS:
            return None
        module, name = COMMANDS[cmd_name]
        command: click.Command = getattr(import_module(f"sobercrow.{module}"), name)
        return command

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        """Return the commands that begin so, and have the shell add files."""
        return [*super().shell_complete(ctx, incomplete), CompletionItem(incomplete, type="file")]


def complete() -> int:
    """Answer a shell, which asks by an environment variable; return the exit code."""
    return shell_complete(Commands("sober-crow"), {}, "sober-crow", COMPLETE, os.environ[COMPLETE])


def script_for(shell: str) -> str:
    """Return what a shell reads once so that it asks: bash, zsh or fish."""
    made = get_completion_class(shell)
    assert made is not None, shell
    return made(Commands("sober-crow"), {}, "sober-crow", COMPLETE).source()
