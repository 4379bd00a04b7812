"""The command line: the core without a browser.

Exit 0 done; 2 bad input, one line on standard error; 3 no operating point.
"""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Sequence
from dataclasses import asdict

from underhood.cli import bench, cable, forecast, job, load, plan, proof, simulate
from underhood.cli.answer import BAD_INPUT, Answer, Parser
from underhood.errors import BadInput

NOUNS = (bench, load, cable, simulate, forecast, plan, proof, job)


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    try:
        options = _parser().parse_args(arguments)
        answer: Answer = options.run(options)
    except BadInput as problem:
        print(problem, file=sys.stderr)
        return BAD_INPUT
    try:
        print(json.dumps(answer.data, ensure_ascii=False, default=asdict) if options.json else answer.text, flush=True)
    except BrokenPipeError:  # whoever read has seen enough; nothing more is to be written, not even at the end
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return answer.code


def _parser() -> Parser:
    parser = Parser(prog="under-hood", description="Plans amplifier and electrical upgrades in vehicles.")
    groups = parser.add_subparsers(required=True, metavar="COMMAND")
    for noun in NOUNS:
        noun.add_commands(groups)
    return parser
