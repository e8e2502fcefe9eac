"""Answers of a survey read in child processes."""

from __future__ import annotations

from functools import partial

from grandferry.core.address import Scope
from grandferry.net.fetch import Fetched
from grandferry.store import bodies
from grandferry.work.jobs.children import Children, TaskEnded
from grandferry.work.survey.reading import Earlier, Reading, Task, read_task


class AnswerReader:
    """Reads answers as they come, in children that know the scope."""

    def __init__(self, scope: Scope):
        self._children = Children(partial(read_task, scope=scope))
        self.start, self.warm, self.close = self._children.start, self._children.warm, self._children.close

    async def read(self, got: Fetched, earlier: Earlier | None = None) -> Reading:
        """What is read from one answer; never raises for what the page is."""
        task: Task = (got.url, got.header("content-type"), got.body, got.hashed, earlier)
        made = await self._children.queue(task, len(got.body))
        if isinstance(made, Reading):
            return made
        return unread(task, str(made) if isinstance(made, TaskEnded) else _sentence(made))


def _sentence(problem: BaseException) -> str:
    return f"The page cannot be read: {type(problem).__name__}: {problem}."


def unread(task: Task, fault: str) -> Reading:
    """The reading of a page that could not be read: kept as captured, with the reason."""
    _, content_type, body, digest, _ = task
    packed, data = bodies.pack(body, content_type.partition(";")[0].strip().lower())
    return Reading("page", digest or bodies.digest(body), packed, data, fault=fault)
