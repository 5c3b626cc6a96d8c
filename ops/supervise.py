"""Processes that come back by themselves, by supervisord."""

from __future__ import annotations

import os
import shlex
from collections.abc import Mapping, Sequence
from pathlib import Path

from ops.steps import PYTHON, ROOT

#: A process that ran for less than this (s) fell over while starting: it is started again after 1,
#: 2, 3 … s, and given up, with a word, after so many times in a row.
STARTED, TRIES = 3, 20
#: What a process gets to end in before it is killed (s).
TO_END = 25

HEAD = """[supervisord]
nodaemon=true
silent=false
logfile=/dev/null
logfile_maxbytes=0
loglevel=warn
pidfile={folder}/supervisord.pid
childlogdir={folder}
{user}
"""
PROGRAM = """[program:{name}]
command={command}
directory={root}
autorestart=true
startsecs={started}
startretries={tries}
stopasgroup=true
killasgroup=true
stopwaitsecs={to_end}
redirect_stderr=true
stdout_logfile=/dev/fd/1
stdout_logfile_maxbytes=0
"""


def web(port: object) -> list[object]:
    """The command of the web process. Who is believed where a request came from is ours to say, in
    the settings: of itself the server would believe every program on this machine.
    """
    return [
        *(PYTHON, "-m", "uvicorn", "service.config.asgi:application", "--no-proxy-headers"),
        *("--host", "127.0.0.1", "--port", port, "--log-level", "warning"),
    ]


def supervised(programs: Mapping[str, Sequence[object]], folder: Path) -> list[str]:
    """The command that runs programs, each brought back when it ends, until it is told to stop;
    its settings are written below ``folder``.
    """
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / "supervisord.conf"
    text = HEAD.format(folder=folder, user="user=root" if os.geteuid() == 0 else "")
    for name, words in programs.items():
        # a per cent sign begins a reference of its own
        command = shlex.join(str(word) for word in words).replace("%", "%%")
        text += PROGRAM.format(
            name=name, command=command, root=ROOT, started=STARTED, tries=TRIES, to_end=TO_END
        )
    path.write_text(text)
    return [str(PYTHON), "-m", "supervisor.supervisord", "-n", "-c", str(path)]
