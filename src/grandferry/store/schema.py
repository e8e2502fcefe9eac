"""Tables. What a person decided and what a machine found never share a row:

``plan_row``, ``pair`` and ``edit`` hold decisions; everything else is found, and may be found again. ``made_from`` is a
hash of what a finding rests on (core.made).
"""

from __future__ import annotations

import peewee
from peewee import AutoField, BigIntegerField, BooleanField, FloatField, ForeignKeyField, IntegerField, TextField

from .db import Record


class Crossing(Record):
    """One migration. ``start``, ``host`` (with port) and ``scheme`` are of the old site."""

    id = AutoField()
    name = TextField(unique=True)
    created = TextField()


class PlanRow(Record):
    """A part of the plan as JSON: ``part`` is kind, rule, aside, step, or a single one (old, manners, …)."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    part = TextField()
    position = IntegerField(default=0)
    name = TextField(default="")
    content = TextField()

    class Meta:
        table_name = "plan_row"
        indexes = ((("crossing", "part", "position"), True),)


class Pair(Record):
    """An old key with its new path, as a person decided it."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    position = IntegerField()
    old = TextField()
    new = TextField(default="")
    status = IntegerField(default=301)
    match = TextField(default="exact")
    reason = TextField(default="")

    class Meta:
        indexes = ((("crossing", "position"), False), (("crossing", "old"), False))


class Address(Record):
    """One URL in normal form. ``state``: waiting, done, failed, shut out. ``type``: page, file, redirect, refused or
    "".

    ``counted``: it belongs to the account of old addresses. The decision, verdict and fate columns repeat
    what ``core.route`` computed last, so that lists can be filtered by them.
    """

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    side = TextField(default="old")
    url = TextField()
    host = TextField()
    key = TextField()
    folder = TextField()
    wants_file = BooleanField(default=False)
    depth = IntegerField(default=0)
    state = TextField(default="waiting")
    reason = TextField(default="")
    status = IntegerField(default=0)
    type = TextField(default="")
    mime = TextField(default="")
    target = TextField(default="")
    capture = IntegerField(null=True)
    title = TextField(default="")
    words = IntegerField(default=0)
    bytes = BigIntegerField(default=0)
    visits = IntegerField(default=0)
    in_links = IntegerField(default=0)
    counted = BooleanField(default=False)
    decision = TextField(default="")
    decision_target = TextField(default="")
    decision_origin = TextField(default="")
    decision_reason = TextField(default="")
    decision_status = IntegerField(default=301)  # of the redirect, where it is one
    verdict = TextField(default="")
    judged = TextField(default="")
    fate = TextField(default="unaccounted")
    proven = BooleanField(default=False)
    why = TextField(default="")
    run = IntegerField(default=0)  # the survey in which it was asked last
    first_run = IntegerField(default=0)  # the survey that found it
    change = TextField(default="")  # against the survey before: added, changed, gone, back, no answer, ""

    class Meta:
        indexes = (
            (("crossing", "side", "url"), True),
            (("crossing", "counted", "fate"), False),
        )


class SurveyRun(Record):
    """One survey of a side: the first, or a later one that tells what changed. ``ended`` is "" while addresses of it
    may still be waiting."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    side = TextField(default="old")
    number = IntegerField()
    started = TextField()
    ended = TextField(default="")
    stopped = TextField(default="")  # why addresses still wait: a sentence, "" when none does or it still goes on

    class Meta:
        table_name = "survey_run"
        primary_key = peewee.CompositeKey("crossing", "side", "number")


class AddressChange(Record):
    """What a later survey found different at an address: ``change`` as in Address, ``what`` a JSON list of text,
    title, links, files, markup, answer."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    side = TextField(default="old")
    run = IntegerField()
    address = ForeignKeyField(Address, on_delete="CASCADE")
    change = TextField()
    what = TextField(default="[]")

    class Meta:
        table_name = "address_change"
        primary_key = peewee.CompositeKey("run", "address")


class Found(Record):
    """A way in which an address was found: start, link, sitemap, log, robots, feed, redirect."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    address = ForeignKeyField(Address, on_delete="CASCADE")
    how = TextField()

    class Meta:
        primary_key = peewee.CompositeKey("address", "how")


class Spelling(Record):
    """Another way in which an address was written (session parameter, alias host, fragment aside)."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    address = ForeignKeyField(Address, on_delete="CASCADE")
    url = TextField()

    class Meta:
        primary_key = peewee.CompositeKey("address", "url")


class Aimed(Record):
    """A place within a page that links lead to: the fragment as written, and how many."""

    address = ForeignKeyField(Address, on_delete="CASCADE", index=False)
    fragment = TextField()
    links = IntegerField()

    class Meta:
        primary_key = peewee.CompositeKey("address", "fragment")
        without_rowid = True


class Reference(Record):
    """A reference from a page (or stylesheet) to an address: element, text, and the raw value as written. The same one
    with the same text stands once for a page."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    source = ForeignKeyField(Address, on_delete="CASCADE", backref="out")
    target = ForeignKeyField(Address, on_delete="CASCADE", backref="into")
    how = TextField()
    raw = TextField()
    words = TextField(default="")


class Capture(Record):
    """One fetched answer. ``body`` is a hash in the body store, "" when there was none; ``rendered`` that of the page
    as a browser built it, "" when none was asked. The generated column ``content`` is the rendered one where there is
    one.
    """

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    address = ForeignKeyField(Address, on_delete="CASCADE")
    at = TextField()
    status = IntegerField()
    headers = TextField()
    body = TextField(default="")
    rendered = TextField(default="")
    bytes = BigIntegerField(default=0)
    seconds = FloatField(default=0)
    encoding = TextField(default="")
    doubtful = TextField(default="")


class PageFacts(Record):
    """What was read from a captured page, as JSON, and its findings; its make (traits as 32-bit numbers, the lowest
    byte first), empty where the page was read by a program that knew none."""

    address = ForeignKeyField(Address, on_delete="CASCADE", primary_key=True)
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    facts = TextField()
    findings = TextField()
    make = peewee.BlobField(default=b"")

    class Meta:
        table_name = "page_facts"


class Sounding(Record):
    """What is known of a side before its survey: one row a matter (robots, sitemaps, made-up address …)."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    side = TextField(default="old")
    name = TextField()
    content = TextField()

    class Meta:
        primary_key = peewee.CompositeKey("crossing", "side", "name")


class Given(Record):
    """A list, log or table that somebody handed over. ``type``: list, log or analytics; ``report`` (JSON) says how it
    was read; ``from_plan``: it lies beside the plan and is read anew with it."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    side = TextField(default="old")
    name = TextField()
    type = TextField()
    at = TextField()
    by = TextField(default="")
    report = TextField(default="{}")
    from_plan = BooleanField(default=False)


class GivenAddress(Record):
    """A request target (path with query) of a host that a list names, and how often people asked for it."""

    given = ForeignKeyField(Given, on_delete="CASCADE", index=False)
    host = TextField()
    target = TextField()
    count = IntegerField(default=0)
    title = TextField(default="")

    class Meta:
        table_name = "given_address"
        primary_key = peewee.CompositeKey("given", "host", "target")


class ShutOut(Record):
    """An address that was met but kept out, why, and what is needed to let it in later."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    side = TextField(default="old")
    url = TextField()
    host = TextField()
    reason = TextField()
    wants_file = BooleanField()
    depth = IntegerField()
    how = TextField(default="")  # where it stands in the first page that names it
    pages = IntegerField(default=0)  # that name it, counted at the end of a survey

    class Meta:
        table_name = "shut_out"
        indexes = ((("crossing", "side", "url"), True),)


class OutReference(Record):
    """A reference to an address that is kept out, as in Reference."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    source = ForeignKeyField(Address, on_delete="CASCADE")
    target = ForeignKeyField(ShutOut, on_delete="CASCADE")
    how = TextField()
    raw = TextField()
    words = TextField(default="")

    class Meta:
        table_name = "out_reference"


class Likeness(Record):
    """Addresses that are alike, in groups: ``type`` same (every word or byte), near (nearly every word), spelling (may
    be one address, ``why`` in words)."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    side = TextField(default="old")
    type = TextField()
    number = IntegerField()
    address = ForeignKeyField(Address, on_delete="CASCADE")
    why = TextField(default="")

    class Meta:
        primary_key = peewee.CompositeKey("crossing", "type", "address")
        indexes = ((("crossing", "side", "type", "number"), False),)


class Sorted(Record):
    """The kind a page was sorted into ("" for none), and the kinds that would fit as well (JSON)."""

    address = ForeignKeyField(Address, on_delete="CASCADE", primary_key=True)
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    kind = TextField()
    rule = IntegerField()
    also = TextField()
    made_from = TextField(default="")

    class Meta:
        indexes = ((("crossing", "kind"), False),)


class MadeGroup(Record):
    """A group of pages made alike, at one of the cuts (``core/sort/grouping.py``): a page of it, a name for its kind,
    the rule that separates it (JSON) with how many pages it catches rightly, misses and takes from others, and the
    drawing of its make (JSON)."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    cut = IntegerField()
    number = IntegerField()
    pages = IntegerField()
    address = ForeignKeyField(Address, on_delete="CASCADE")
    name = TextField()
    rule = TextField()
    right = IntegerField()
    missed = IntegerField()
    wrong = IntegerField()
    drawing = TextField()

    class Meta:
        table_name = "made_group"
        primary_key = peewee.CompositeKey("crossing", "cut", "number")


class PageGroup(Record):
    """A page's group at one of the cuts."""

    address = ForeignKeyField(Address, on_delete="CASCADE")
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    cut = IntegerField()
    number = IntegerField()

    class Meta:
        table_name = "page_group"
        primary_key = peewee.CompositeKey("crossing", "cut", "number", "address")


class Item(Record):
    """One piece of structured content. ``key``: old key of its first source; ``place``: node it begins at (-1:
    page)."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    kind = TextField()
    key = TextField()
    place = IntegerField(default=-1)
    title = TextField(default="")
    new_path = TextField(default="")
    note = TextField(default="")
    lifted_by = IntegerField(default=0)
    made_from = TextField(default="")
    outside = peewee.BlobField(null=True)  # hashes of the texts of its page that stand outside its bodies

    class Meta:
        indexes = ((("crossing", "key", "place"), True), (("crossing", "kind"), False))


class ItemSource(Record):
    item = ForeignKeyField(Item, on_delete="CASCADE")
    address = ForeignKeyField(Address, on_delete="CASCADE")
    place = IntegerField(default=-1)

    class Meta:
        table_name = "item_source"
        primary_key = peewee.CompositeKey("item", "address", "place")


class ItemField(Record):
    """One field of one item as it was lifted. ``type``: that of the field; of a body ``lifted`` holds its nodes and
    ``lifted_hash`` is that of its words, so that a body that only stands elsewhere on its page is the same.
    ``unlike``: why a value wants a look though it was read, "" for nothing."""

    item = ForeignKeyField(Item, on_delete="CASCADE")
    field = TextField()
    type = TextField(default="")
    lifted = TextField(null=True)
    lifted_hash = TextField(default="")
    locator = IntegerField(default=-1)
    nodes = TextField(default="[]")
    state = TextField(default="empty")
    note = TextField(default="")
    unlike = TextField(default="")
    beside = BooleanField(default=False)  # the words of its nodes do not go over with it

    class Meta:
        table_name = "item_field"
        primary_key = peewee.CompositeKey("item", "field")


class HandedRecord(Record):
    """A record of a feed, an export file or a table that was handed over: ``source`` by which the file is known, the
    ``key`` of its address ("" where it has none on the old site), all that it says (JSON), a hash of that, and the key
    of the ``page`` made of it where none is captured."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    source = TextField()
    key = TextField()
    kind = TextField()
    state = TextField()
    data = TextField()
    hash = TextField()
    page = TextField(default="")

    class Meta:
        table_name = "record"
        indexes = ((("crossing", "key"), False), (("crossing", "page"), False))


class DifferenceRecord(Record):
    """In what two plans differ over a page, of the newest comparison: a field's value before and after (JSON), or with
    ``field`` "" how many words only one of them carries, and the first of these."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    position = IntegerField()
    address = ForeignKeyField(Address, on_delete="CASCADE")
    kind_before = TextField()
    kind_after = TextField()
    field = TextField()
    before = TextField()
    after = TextField()
    only_before = IntegerField()
    only_after = IntegerField()

    class Meta:
        table_name = "difference"
        primary_key = peewee.CompositeKey("crossing", "position")


class EditRow(Record):
    """What a person set by hand over a lifted value (``block`` "", ``act`` set), or over one block of a body (``act``
    set, drop or after). ``over``: hash of what it was laid over, "" until that is known; when it no longer fits, that
    is a conflict. It stays when the item goes, and is there when it comes back."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    old = TextField()
    field = TextField()
    block = TextField(default="")
    act = TextField(default="set")
    value = TextField()
    over = TextField(default="")
    by = TextField(default="")
    at = TextField(default="")

    class Meta:
        table_name = "edit"
        primary_key = peewee.CompositeKey("crossing", "old", "field", "block", "act")


class Stamp(Record):
    """What a stage's findings as a whole were made from, when it last came to its end."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    stage = TextField()
    made_from = TextField()
    at = TextField()

    class Meta:
        primary_key = peewee.CompositeKey("crossing", "stage")


class Refit(Record):
    """The blocks of a body field (a hash in the body store) and its loss account (JSON)."""

    item = ForeignKeyField(Item, on_delete="CASCADE")
    field = TextField()
    blocks = TextField()
    account = TextField()
    words = IntegerField(default=0)
    in_blocks = IntegerField(default=0)
    in_islands = IntegerField(default=0)
    unaccounted = IntegerField(default=0)
    made_from = TextField(default="")

    class Meta:
        primary_key = peewee.CompositeKey("item", "field")


class RefitCount(Record):
    """How often a construct stands in a body's blocks (``type`` construct), or how many words a step took out of it
    (``type`` step)."""

    item = ForeignKeyField(Item, on_delete="CASCADE")
    field = TextField()
    type = TextField()
    name = TextField()
    count = IntegerField()

    class Meta:
        table_name = "refit_count"
        primary_key = peewee.CompositeKey("item", "field", "type", "name")


class Taken(Record):
    """What a clean-up step takes of the page of an item, in bodies and around them: a hash of what it says and where it
    leads, by which the same part is known on other pages, and its words."""

    item = ForeignKeyField(Item, on_delete="CASCADE", index=False)
    step = TextField()
    version = BigIntegerField()
    words = IntegerField()

    class Meta:
        primary_key = peewee.CompositeKey("item", "step")


class Shared(Record):
    """A text that stands outside the bodies of several pages: furniture, by the hash of its words."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    hash = BigIntegerField()
    pages = IntegerField()

    class Meta:
        primary_key = peewee.CompositeKey("crossing", "hash")


class File(Record):
    """One distinct file by content, with its new place. ``fate``: carried, set aside or unaccounted."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    body = TextField()
    name = TextField()
    mime = TextField(default="")
    bytes = BigIntegerField(default=0)
    new_path = TextField(default="")
    alt = TextField(default="")
    fate = TextField(default="unaccounted")
    reason = TextField(default="")

    class Meta:
        indexes = ((("crossing", "body"), True),)


class Looked(Record):
    """What a file is by its content (``core.media.facts``), whichever crossing it is of."""

    body = TextField(primary_key=True)
    mime = TextField()
    width = IntegerField()
    height = IntegerField()
    fault = TextField()

    class Meta:
        without_rowid = True


class SaidRow(Record):
    """What a person says of a file, as JSON (``core.media.said.FileSaid``), by what the plan calls it. It stays when
    the file goes, and is there when it comes back."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    file = TextField()
    content = TextField()

    class Meta:
        table_name = "said"
        primary_key = peewee.CompositeKey("crossing", "file")


class Suggestion(Record):
    """The likeliest new address of an open one; ``reasons`` ([code, what]) and ``others`` ([new, confidence]) as
    JSON. It is nobody's decision, and made anew as a whole."""

    address = ForeignKeyField(Address, on_delete="CASCADE", primary_key=True)
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    new = TextField()
    confidence = FloatField()
    reasons = TextField()
    others = TextField()

    class Meta:
        table_name = "suggestion"


class SuggestedRule(Record):
    """A rule behind pairs, in the order in which it has to stand; ``settled`` (the first of them), ``disagrees`` and
    ``catches`` as JSON; ``visits``: of all that it settles."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", index=False)
    position = IntegerField()
    old = TextField()
    new = TextField()
    settles = IntegerField()
    disagrees = TextField()
    catches = TextField()
    settled = TextField(default="[]")
    visits = IntegerField(default=0)

    class Meta:
        table_name = "suggested_rule"
        primary_key = peewee.CompositeKey("crossing", "position")


class FileSource(Record):
    file = ForeignKeyField(File, on_delete="CASCADE")
    address = ForeignKeyField(Address, on_delete="CASCADE")

    class Meta:
        table_name = "file_source"
        primary_key = peewee.CompositeKey("file", "address")


class Round(Record):
    """One live check of all old addresses against ``base``."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    base = TextField()
    started = TextField()
    ended = TextField(default="")
    counts = TextField(default="{}")
    taken_over = IntegerField(default=0)  # addresses that were not asked, since the round before had proven them


class RoundVerdict(Record):
    round = ForeignKeyField(Round, on_delete="CASCADE")
    address = ForeignKeyField(Address, on_delete="CASCADE")
    verdict = TextField()
    judged = TextField()
    status = IntegerField()
    hops = TextField()
    final = TextField(default="")

    class Meta:
        table_name = "round_verdict"
        primary_key = peewee.CompositeKey("round", "address")


class Landing(Record):
    """One delivery run."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    target = TextField()
    dry = BooleanField(default=False)
    started = TextField()
    ended = TextField(default="")
    counts = TextField(default="{}")


class Ledger(Record):
    """What a target holds of ours: our key -> its id there, and the hash of what was sent last."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    target = TextField()
    type = TextField()
    key = TextField()
    remote = TextField()
    sent = TextField()
    at = TextField()

    class Meta:
        primary_key = peewee.CompositeKey("crossing", "target", "type", "key")


class Job(Record):
    """A piece of long work. ``lease`` grows each time a worker takes it up and fences the one before off."""

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE", null=True)
    kind = TextField()
    params = TextField(default="{}")
    state = TextField(default="queued")
    counters = TextField(default="{}")
    result = TextField(default="{}")
    error = TextField(default="")
    lease = IntegerField(default=0)
    idle_tries = IntegerField(default=0)
    reached = TextField(default="{}")
    heartbeat = FloatField(default=0)
    wish = TextField(default="")
    created = TextField()
    started = TextField(default="")
    ended = TextField(default="")


class Event(Record):
    """Progress and log lines; the id is the ``Last-Event-ID``."""

    id = AutoField()
    crossing = IntegerField(null=True)
    job = IntegerField(null=True)
    at = TextField()
    kind = TextField()
    text = TextField(default="")
    data = TextField(default="{}")


class Tally(Record):
    """Counts of the account by first folder, fate and proof; kept by triggers within the writing transaction."""

    crossing = IntegerField()
    folder = TextField()
    fate = TextField()
    proven = BooleanField()
    count = IntegerField()

    class Meta:
        primary_key = peewee.CompositeKey("crossing", "folder", "fate", "proven")


class Change(Record):
    """A change set of a person: what was decided before it, so that it can be taken back. ``before`` is JSON.

    The number of the newest change of a crossing is the revision of its plan.
    """

    id = AutoField()
    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    at = TextField()
    by = TextField(default="")
    text = TextField()
    before = TextField()
    undone = BooleanField(default=False)


class LandingRow(Record):
    """What a landing did (or, dry, would do) with one thing: created, changed, same or refused."""

    landing = ForeignKeyField(Landing, on_delete="CASCADE")
    type = TextField()
    key = TextField()
    title = TextField(default="")
    place = TextField(default="")
    state = TextField()
    reason = TextField(default="")

    class Meta:
        table_name = "landing_row"
        primary_key = peewee.CompositeKey("landing", "type", "key")


class Handed(Record):
    """A line of the redirect map that was written out for a server, and when."""

    crossing = ForeignKeyField(Crossing, on_delete="CASCADE")
    match = TextField()
    old = TextField()
    new = TextField()
    server = TextField()
    at = TextField()

    class Meta:
        primary_key = peewee.CompositeKey("crossing", "match", "old")
