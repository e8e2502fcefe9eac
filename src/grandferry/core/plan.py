"""The plan: everything a person decided in a crossing, as models. Its JSON Schema comes from here.

On disk a plan is a folder: ``plan.yaml`` (this model), ``pairs.csv`` (``Pair`` rows), ``media.csv`` (``FileSaid``
rows) and ``edits.jsonl`` (``Edit`` rows). Unknown keys are refused, so that a typing error is never ignored.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, Literal, Self, TypeVar, get_args

from pydantic import AfterValidator, BeforeValidator, Field, model_validator

from .address import SESSION_PARAMETERS, checked_start, to_key, www
from .errors import FerryError, PlanError
from .kinds import KindPlan, Name, Step
from .land.profile import PROFILES, Profile, good_choices
from .mapping import Mapped
from .media.said import MediaSettings
from .patterns import compile_pattern
from .refit.choices import Odd, WrittenAs
from .route.redirects import Match, Redirect, fitted, neutral, without_host
from .side import SideName
from .strict import Pattern, Strict
from .survey.families import PERSONAL

T = TypeVar("T")
DEFAULT_AGENT = "GrandFerry/0.1 (content migration; acting for the site's owner)"


def _good_start(value: str) -> str:
    try:
        return str(checked_start(value)[0])
    except FerryError as problem:
        raise ValueError(str(problem)) from None


def _good_key(value: str) -> str:
    try:
        return to_key(value)
    except FerryError as problem:
        raise ValueError(str(problem)) from None


def _date_as_written(value: Any) -> Any:
    """YAML reads a date written without quotes as one; here it is a text."""
    return value.isoformat() if isinstance(value, date) else value


def _good_item_key(value: str) -> str:
    key, sign, mark = value.partition("#")
    return _good_key(key) + sign + mark


Start = Annotated[str, AfterValidator(_good_start)]
Key = Annotated[str, AfterValidator(_good_key), Field(description="path with query, free of any host")]


ItemKey = Annotated[
    str,
    AfterValidator(_good_item_key),
    Field(description="the key of an item's page, of a section with #mark"),
]


class Permission(Strict):
    """The owner's leave to copy the site, and who entered it here, and when (UTC)."""

    by: str = Field(min_length=1)
    date: Annotated[str, BeforeValidator(_date_as_written)] = Field(min_length=1, description="as written")
    entered_by: str = ""
    entered_at: str = ""

    @model_validator(mode="after")
    def _not_blank(self) -> Permission:
        if not self.by.strip() or not self.date.strip():
            raise ValueError("leave to copy a site needs the name of who gave it, and when")
        return self


class Site(Strict):
    """A site: its start address, other names of the same host, further hosts whose pages belong to it, and hosts that
    only give files."""

    start: Start
    aliases: list[str] = []
    hosts: list[str] = []
    file_hosts: list[str] = []


class OldSite(Site):
    permission: Permission | None = None


class Manners(Strict):
    """How politely the survey fetches. ``delay`` in seconds between two requests to a host; up to ``spread`` seconds
    more are added by chance, so that the requests do not come like a clock."""

    delay: float = Field(1.0, ge=0, le=300)
    spread: float = Field(0.0, ge=0, le=300)
    bytes_per_second: int | None = Field(None, ge=1000, description="of all answers together")
    at_once: int = Field(4, ge=1, le=64)
    robots: Literal["obey", "owner confirmed"] = "obey"
    agent: str = Field(DEFAULT_AGENT, min_length=3)
    timeout: float = Field(30.0, gt=0, le=600, description="seconds for one answer")


class EndlessSpace(Strict):
    """What was decided of addresses that seem to be made without end: ``take`` all of them, or leave them out."""

    shape: str = Field(min_length=1, max_length=2000)
    take: bool


class SurveySettings(Strict):
    """Bounds of the survey, and lists that name addresses no link leads to. ``admit``: single addresses let in whatever
    the other bounds say."""

    subdomains: bool = Field(False, description="pages of all hosts below the start's own belong to the site")
    admit: list[Start] = []
    endless: list[EndlessSpace] = []
    browser: list[Pattern] = Field([], description="pages captured through a browser as well")
    browser_where_needed: bool = Field(False, description="also pages that seem to be built by their scripts")
    preset: str = Field(
        "", max_length=60, description="the system whose starting rules hold as well; empty: as recognised; other: none"
    )
    depth: int | None = Field(None, ge=0)
    max_pages: int = Field(100_000, ge=1)
    below: list[str] = Field([], description="path prefixes (whole parts) pages must lie in")
    include: list[Pattern] = []
    exclude: list[Pattern] = []
    drop_parameters: list[str] = list(SESSION_PARAMETERS)
    sitemaps: bool = True
    logs: list[str] = Field([], description="access logs (Combined Log Format), beside the plan")
    max_page_bytes: int = Field(16_000_000, ge=1000)
    max_file_bytes: int = Field(1_000_000_000, ge=1000)


class NewSite(Site):
    """The new site, to be surveyed as the old one is. Without a start its survey begins at the interim host."""

    start: Start | None = None  # type: ignore[assignment]
    manners: Manners = Manners()  # type: ignore[call-arg]
    survey: SurveySettings = SurveySettings()  # type: ignore[call-arg]


@dataclass(frozen=True, slots=True)
class SidePlan:
    """What the survey of a side goes by."""

    start: str
    site: Site
    survey: SurveySettings
    manners: Manners

    @property
    def scheme(self) -> str:
        return self.start.partition("://")[0]

    @property
    def origin(self) -> str:
        """Scheme and host of its start."""
        return f"{self.scheme}://{self.host}"

    @property
    def host(self) -> str:
        """The host of its start, with its port."""
        return self.start.partition("://")[2].partition("/")[0]


class FormSaid(Strict):
    """What became of a form (by its mark, ``core.refit.forms``): a person wired it up in the new system, or dropped it;
    ``note``: where, or why."""

    form: str = Field(pattern=r"^[0-9a-f]{12}$")
    state: Literal["wired up", "dropped"]
    note: str = Field(default="", max_length=2000)


class RefitSettings(Strict):
    """``markdown``: how Markdown says what it has no mark for, where not as it does by default; ``forms``: those that
    no longer wait for a person."""

    steps: list[Step] = []
    forms: list[FormSaid] = []
    markdown: Annotated[dict[str, str], AfterValidator(good_choices)] = {}

    @property
    def choices(self) -> dict[Odd, WrittenAs]:
        return {Odd(name): WrittenAs(choice) for name, choice in self.markdown.items()}


class MapLine(Strict):
    """A line of the redirect map as a person writes it. ``exact``: one key; ``prefix`` goes by whole path parts and
    carries the rest over; ``pattern`` is RE2 anchored at both ends over path?query, ``new`` holding ``{1}`` … ``{9}``.
    ``status`` 410 retires (no ``new``)."""

    old: str = Field(min_length=1)
    new: str = ""
    match: Match = "exact"
    status: Literal[301, 302, 307, 308, 410] = 301

    @model_validator(mode="after")
    def _fits(self) -> Self:
        try:
            self.old = fitted(self.old, self.new, self.status, self.match).old
        except FerryError as problem:
            raise ValueError(str(problem)) from None
        return self

    @property
    def redirect(self) -> Redirect:
        """The line as the map holds it. Raises AddressError when ``new`` speaks of a part that ``old`` has not got."""
        return neutral(self.old, self.new, self.status, self.match)

    def kept(self) -> Self:
        """The line with both addresses in the form in which they are kept. Raises as ``redirect`` does."""
        line = self.redirect
        return self.model_copy(update={"old": line.old, "new": line.new})


class RouteRule(MapLine):
    match: Match = "prefix"
    reason: str = ""


class Aside(Strict):
    """Addresses left out on purpose: RE2 anchored at both ends over path?query, and why."""

    address: Pattern
    reason: str = Field(min_length=3)


class Accepted(Strict):
    """Old addresses whose landing page is right although it says something else: RE2 anchored at both ends over
    path?query, and why. It proves nothing of an error page, nor of a wrong place."""

    address: Pattern
    reason: str = Field(min_length=3)


PARENT = "parent"  # provisionally: where the page above leads


def _good_until(value: str) -> str:
    if value not in ("", PARENT) and not value.startswith(("/", "http://", "https://")):
        raise ValueError(f"“{value}” is neither “{PARENT}” nor a new address (it begins with “/” or “http”)")
    return value


class Question(Strict):
    """What only the owner of the site can say of some old addresses, asked in these words. Until it is answered they
    lead, for now (302), to ``until``: ``parent``, where the page above each of them goes, or a new address; with ""
    they stay as they are otherwise. ``answer``: what the owner said, who and when; what came of it stands in pairs and
    in what is set aside."""

    about: list[Key] = Field(min_length=1, max_length=20_000)
    asked: str = Field(min_length=3, max_length=2000)
    until: Annotated[str, AfterValidator(_good_until)] = Field(default="", max_length=2000)
    answer: str = Field(default="", max_length=2000)
    by: str = Field(default="", max_length=200)
    at: str = ""

    @property
    def open(self) -> bool:
        return not self.answer


class CarriedKey(Strict):
    """A key in the old pages' code that goes over as it is, though others are masked: by its mark (the first 12 hex
    digits of its SHA-256), since the plan does not hold it; and what it is called there."""

    mark: str = Field(pattern=r"^[0-9a-f]{12}$")
    name: str = Field(default="", max_length=200)


class RouteSettings(Strict):
    rules: list[RouteRule] = []
    aside: list[Aside] = []
    accept: list[Accepted] = []
    questions: list[Question] = []
    files: str | None = Field(
        None,
        pattern=r"^(?:/|\{item\}/)",
        description="new path of files, with {name}, {path} (the old one), {text} (the text that stands for it, as a "
        "name), {family} (pictures, documents …) or {item} (the place of the item it belongs to); "
        "where nothing is said, a file goes along with the item of the page that it stands on",
    )

    @property
    def lines(self) -> list[Redirect]:
        """The rules as lines of the map, in their order."""
        return [rule.redirect for rule in self.rules]

    @property
    def asked(self) -> dict[str, Question]:
        """old key -> the open question about it."""
        return {key: question for question in self.questions if question.open for key in question.about}

    def accepting(self) -> Callable[[str], str]:
        """A function that gives the reason for which the landing page of an old address is accepted, "" for none."""
        lines = [(compile_pattern(line.address), line.reason) for line in self.accept]
        return lambda key: next((reason for pattern, reason in lines if pattern.fullmatch(key)), "")


TargetName = Literal["jsonapi", "markdown", "json", "jsonl", "html", "feed"]
TARGETS: tuple[str, ...] = get_args(TargetName)
FOLDERS = TARGETS[1:]  # those that are folders


class LandSettings(Strict):
    """Where items go: a JSON:API target at ``base``, and the types that its items and files have there; or a folder of
    Markdown (as ``profile`` wants it; without one as the first of the ready ones), JSON, JSON lines, HTML pages or
    feeds.
    ``folder``: its name, below those that the workspace has for it; without one that of the crossing."""

    target: TargetName = "jsonapi"
    base: Start | None = None
    folder: str = Field("", pattern=r"^$|^[\w][\w. -]{0,59}$")
    profile: Profile | None = None
    types: dict[str, str] = Field({}, description="kind -> resource type")
    fields: dict[str, list[Mapped]] = Field({}, description="kind -> its fields as the target has them")
    file_type: str = "files"
    redirect_type: str = "redirects"

    @model_validator(mode="after")
    def _somewhere(self) -> Self:
        if self.target == "jsonapi" and self.base is None:
            raise ValueError("the address (base) of the new system is missing")
        return self

    @property
    def in_folder(self) -> bool:
        return self.target in FOLDERS

    @property
    def as_markdown(self) -> Profile:
        """The profile that counts."""
        return self.profile or next(iter(PROFILES.values()))


def _host(url: str) -> str:
    return url.partition("://")[2].partition("/")[0].lower()


def _with_www(hosts: list[str]) -> frozenset[str]:
    """Some hosts, each with www and without."""
    plain = {host.lower() for host in hosts if host}
    return frozenset(plain | {www(host) for host in plain})


class Plan(Strict):
    """A whole crossing as a person decided it."""

    format: Literal[1]
    name: str = Field(min_length=1, max_length=200)
    old: OldSite
    interim: Start | None = Field(None, description="where the new site grows; checks go there")
    final: str | None = Field(None, description="where the new site will live; it can be asked as well")
    manners: Manners = Manners()  # type: ignore[call-arg]
    survey: SurveySettings = SurveySettings()  # type: ignore[call-arg]
    new: NewSite | None = Field(None, description="how the new site is surveyed, where it is")
    kinds: list[KindPlan] = []
    refit: RefitSettings = RefitSettings()
    route: RouteSettings = RouteSettings()  # type: ignore[call-arg]
    media: MediaSettings = MediaSettings()
    leave_out: list[str] = Field(list(PERSONAL), description="families that do not go over")
    carried_keys: list[CarriedKey] = Field([], description="keys in the old pages' code that are not masked")
    land: LandSettings | None = None

    @model_validator(mode="after")
    def _kinds_once(self) -> Plan:
        names = [k.name for k in self.every_kind]
        twice = {n for n in names if names.count(n) > 1}
        if twice:
            raise ValueError(f"the kind “{sorted(twice)[0]}” is named twice")
        return self

    @model_validator(mode="after")
    def _no_host(self) -> Plan:
        for rule in self.route.rules:
            rule.new = without_host(rule.new, self.our_hosts)
        for question in self.route.questions:
            question.until = without_host(question.until, self.our_hosts)
        return self

    @property
    def every_kind(self) -> list[KindPlan]:
        """The kinds as they are worked with: those of several languages once for each."""
        return [made for kind in self.kinds for made in kind.by_language()]

    @property
    def tongues(self) -> tuple[str, ...]:
        """The languages that kinds or their rules name, the first of them that of pages that say none."""
        named = [language for kind in self.kinds for language in kind.languages]
        named += [rule.language for kind in self.kinds for rule in kind.rules if rule.language]
        return tuple(dict.fromkeys(named))

    def _of_kinds(self, said: Mapping[str, T], otherwise: Callable[[str], T]) -> dict[str, T]:
        """What is said of each kind (of ``every_kind``), else of the kind that it is a language of."""
        return {
            made.name: said.get(made.name) or said.get(kind.name) or otherwise(made.name)
            for kind in self.kinds
            for made in kind.by_language()
        }

    @property
    def item_types(self) -> dict[str, str]:
        """What the target calls items of each kind (of ``every_kind``)."""
        return self._of_kinds(self.land.types if self.land is not None else {}, str)

    @property
    def mappings(self) -> dict[str, list[Mapped]]:
        """How the target has the fields of each kind (of ``every_kind``)."""
        return self._of_kinds(self.land.fields if self.land is not None else {}, lambda _: [])

    @property
    def carried_marks(self) -> frozenset[str]:
        """The marks of keys that go over as they are."""
        return frozenset(key.mark for key in self.carried_keys)

    @property
    def old_hosts(self) -> frozenset[str]:
        """The hosts (with port) at which the old site's own pages are known, with and without www."""
        return _with_www([_host(self.old.start), *self.old.aliases])

    @property
    def our_hosts(self) -> frozenset[str]:
        """The hosts that stand in no redirect map: those of the old site, and where the new one grows and will be."""
        new = self.new or NewSite()
        named = [url for url in (self.interim, self.final, new.start) if url]
        return self.old_hosts | _with_www([*map(_host, named), *new.aliases])

    def cut(self, lines: list[Pair]) -> list[Pair]:
        """Pairs whose new addresses are paths where they named a host of ours."""
        ours = self.our_hosts
        return [line.model_copy(update={"new": without_host(line.new, ours)}) for line in lines]

    def side(self, name: SideName) -> SidePlan:
        """What the survey of a side goes by. Raises PlanError when nobody has said where the new site is."""
        if name == "old":
            return SidePlan(self.old.start, self.old, self.survey, self.manners)
        new = self.new or NewSite()
        start = new.start or self.interim
        if not start:
            raise PlanError(
                "Nobody has said where the new site is.",
                hint="Name its start, or the interim host, under Scope & manners.",
            )
        return SidePlan(start, new, new.survey, new.manners)


class Pair(MapLine):
    """A line of ``pairs.csv``: columns old,new,status,match,reason. ``reason``: why, as a person says it."""

    reason: str = Field(default="", max_length=2000)


class Edit(Strict):
    """A line of ``edits.jsonl``: what a person set over what was lifted. ``block`` "" stands for the whole value; of a
    body a block can be set, dropped, or followed by something (``after``); its value is HTML."""

    old: ItemKey
    field: Name
    value: Any = None
    over: str = Field("", description="hash of what it was laid over")
    by: str = ""
    at: str = ""
    block: str = Field("", max_length=40, description="id of a block of a body")
    act: Literal["set", "drop", "after"] = "set"

    @model_validator(mode="after")
    def _fits(self) -> Edit:
        if not self.block and self.act != "set":
            raise ValueError("only a block of a body can be dropped or followed by something")
        if self.block and self.act != "drop" and not isinstance(self.value, str):
            raise ValueError("the value of an edited block is HTML")
        return self
