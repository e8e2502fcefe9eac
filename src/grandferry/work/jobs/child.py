"""A child that reads answers: it imports no more than that takes, and has a socket for what it is given and gives back.

A message is its length (eight bytes, little-endian) and a pickle.
"""

from __future__ import annotations

import pickle
import socket
import struct

from grandferry.core.address import Scope
from grandferry.work.jobs.pool import begin_child, page_done
from grandferry.work.survey.reading import read_answers

LENGTH = struct.Struct("<Q")
BUFFER = 1_000_000


def serve(theirs: socket.socket, scope: Scope) -> None:
    """A child's whole life: read what it is given until the other end is gone."""
    begin_child()
    theirs.setblocking(True)
    with theirs, theirs.makefile("rb", BUFFER) as given:
        while len(lengths := given.read(LENGTH.size)) == LENGTH.size:
            tasks = pickle.loads(given.read(LENGTH.unpack(lengths)[0]))
            made = pickle.dumps(read_answers(tasks, scope), 5)
            theirs.sendall(LENGTH.pack(len(made)) + made)
            page_done(len(tasks))
