"""Hand-written material and the small grammar that makes texts of it, from a fixed seed."""

from __future__ import annotations

import random
from typing import Any

ENGINES = [
    ("Lady Osmer", "2", "Brindle & Hay, Carrowmere", 1903, "0-6-0ST", "32", "In service"),
    ("Thrush", "4", "Tarrantwick Locomotive Works", 1911, "2-4-0T", "28", "Under repair"),
    ("Greywater", "11", "Brindle & Hay, Carrowmere", 1921, "0-6-2T", "47", "In service"),
    ("Old Fennick", "1", "Dunwhistle Foundry", 1887, "0-4-0WT", "14", "On display"),
    ("Merrin Queen", "7", "Tarrantwick Locomotive Works", 1934, "2-6-2T", "61", "In service"),
    ("Pilgrim's Rest", "8", "Saltmarrow Engineering", 1938, "4-4-0", "54", "Under repair"),
    ("Wren", "12", "Dunwhistle Foundry", 1946, "0-4-0ST", "19", "In service"),
    ("Captain Idris", "15", "Brindle & Hay, Carrowmere", 1949, "2-6-0", "66", "Under repair"),
    ("Harebell", "17", "Saltmarrow Engineering", 1952, "0-6-0DM", "30", "In service"),
    ("Lower Quill", "19", "Tarrantwick Locomotive Works", 1955, "Bo-Bo", "72", "On display"),
    ("Teazel", "21", "Dunwhistle Foundry", 1958, "0-4-0DM", "22", "In service"),
    ("Gwennol", "23", "Brindle & Hay, Carrowmere", 1960, "0-6-0DH", "44", "Under repair"),
]
PLACES = [
    "Quillmere Town",
    "Osmer Halt",
    "Fennick Bridge",
    "Greywater Viaduct",
    "Merrin Road",
    "Tarn Head",
    "Saltmarrow Quay",
]
PEOPLE = ["Dilys Marrow", "Tom Ackerley", "Petra Vane", "Owen Strake", "Hetty Lorimer", "Jonas Birdsall"]
TOPICS = ["Engines", "Volunteers", "Track", "Events", "Carriages", "Shop"]
MONTHS = [
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
]
TITLES = [
    "A day out at {place}",
    "{engine} steams again",
    "New sleepers at {place}",
    "Volunteers wanted at {place}",
    "Santa trains are back",
    "{engine} returns from overhaul",
    "The signal box at {place}",
    "Winter work on the line",
    "Tea room re-opens at {place}",
    "{engine}: what the boiler told us",
    "Record visitors in {month}",
    "A wedding at {place}",
    "The {month} gala: what to expect",
    "Coach 14 gets its paint",
    "Flood damage near {place}",
    "Who was the engineer of {place}?",
    "Thank you, {person}",
    "{engine} & the lost nameplate",
]
OPENERS = [
    "It has been a long {season} for everybody at {place}.",
    "On {day} morning the first train left {place} to the sound of a brass band.",
    "When {person} unlocked the shed on {day}, nobody expected what came next.",
    "The working party met at {place} on {day}, as it has done every week since 1974.",
    "After eleven months in pieces, {engine} stood outside the shed at {place} again.",
]
MIDDLES = [
    "The {part} had been taken down for inspection and went back together without a single new bolt.",
    "{person} brought cake, which as always settled the argument about the {part}.",
    "More than {number} people came, and the queue for tickets reached the goods yard.",
    "We replaced {number} sleepers between {place} and {place2} before the rain set in.",
    "The {part} will need a new casting, and the pattern for it was lost some time in the nineteen-sixties.",
    "If you can spare a {day} a month, there is a shovel with your name on it.",
    "Trains will run to {place2} only until the embankment has been made good.",
    "The bill came to £{number}, rather less than we had feared.",
    "Nobody under sixty remembered how the {part} was fitted, so we asked {person}.",
]
CLOSERS = [
    "We hope to see you at {place} before the leaves are down.",
    "Photographs are in the carriage shed; please do ask {person} for the key.",
    "More news when the {part} is back from the foundry.",
    "The next working day is the second {day} of {month}.",
]
PARTS = ["smokebox door", "regulator valve", "left-hand cylinder", "brake gear", "firebox crown", "coupling rod"]
SEASONS = ["winter", "spring", "summer", "autumn"]
DAYS = ["Monday", "Wednesday", "Saturday", "Sunday"]

QUESTIONS = {
    "Tickets and fares": [
        ("Can I buy a ticket on the train?", "Yes, from the guard. At Quillmere Town please use the booking office."),
        ("Do dogs travel free?", "One dog a passenger travels free. A second dog pays the child fare."),
        ("Are day rovers valid on gala days?", "They are, except on the driving experience trains."),
    ],
    "Getting here": [
        ("Is there a car park?", "There are 140 places at Quillmere Town, and 12 at Tarn Head."),
        ("Which bus do I take?", "The 38 from Carrowmere market stops outside the gate every two hours."),
    ],
    "Prams and wheelchairs": [
        ("Can a wheelchair get on?", "Coach 9 has a ramp and a wide door. Tell us the day before if you can."),
        ("Where do prams go?", "In the guard's van, with the guard's permission and the guard's bicycle."),
        ("Is the tea room level?", "It is. The museum has two steps and a bell."),
    ],
    "Driving an engine": [
        ("How old must I be?", "Eighteen, and able to climb to the footplate without help."),
        ("What should I wear?", "Cotton. Nothing that melts, and nothing you are fond of."),
    ],
    "Lost property": [
        ("I left my umbrella on the train.", "So have forty others. Come and choose."),
        ("How long do you keep things?", "Six months, and false teeth for a year."),
    ],
}

PAGES = [
    ("about", "history", "A short history of the line"),
    ("about", "society", "The preservation society"),
    ("about", "board", "Who runs the railway"),
    ("about", "accounts", "Accounts & reports"),
    ("about", "contact", "Write to us"),
    ("visit", "timetable", "Timetable and calendar"),
    ("visit", "fares", "Fares"),
    ("visit", "tea-room", "The tea room at Osmer Halt"),
    ("visit", "museum", "The museum"),
    ("visit", "walks", "Walks from our stations"),
    ("Volunteer", "Roles", "What volunteers do"),
    ("Volunteer", "Training", "Training & safety"),
    ("Volunteer", "Signalling", "Learning the signal box"),
    ("about", "glossary", "Words of the railway"),
    ("about", "models", "The model room's control program"),
]

# what pages say beside their paragraphs, by their names (``constructs``)
NEWER: dict[str, list[tuple[Any, ...]]] = {
    "society": [
        (
            "callout",
            "note",
            "Members only",
            "The reading room opens *after* the last train, to members and their guests.",
        ),
        (
            "noted",
            [
                "The society was founded in a waiting room",
                ("minutes", "1"),
                " and has met there since",
                ("roof", "2"),
                ".",
            ],
            [("minutes", "Minute book, the **first** page."), ("roof", "But for the year without a roof.")],
        ),
    ],
    "board": [
        ("columns", ["The chair speaks for the railway, and *signs* for it.", "The treasurer counts, twice a year."]),
    ],
    "accounts": [("pasted", ["Read the accounts", "Ask the treasurer", "Vote in **March**"])],
    "contact": [
        (
            "form",
            "/cgi/letter",
            [
                ("name", "Your name", "text", True, []),
                ("mail", "Where we may answer", "email", True, []),
                ("about", "What it is about", "select", False, ["Trains", "The tea room", "Something else"]),
                ("day", "The day of your visit", "date", False, []),
                ("words", "What you have to say", "textarea", True, []),
            ],
        ),
    ],
    "fares": [
        (
            "tabs",
            [("Grown-ups", "Nine pounds, there and back."), ("Children", "Four pounds; under **three** nothing.")],
        ),
        ("button", "/visit/timetable.htm", "See when trains run"),
    ],
    "Training": [
        ("callout", "warning", "Mind the wire", "The fence by the shed is *live* on red days."),
        ("bullets", ["Boots that hold the foot", "A lamp, and a **spare** one", "Bread for the day"]),
    ],
    "Signalling": [
        ("fold", "token", "What is a token?", "Leave to be on a *single* line, in brass."),
        ("fold", "bells", "What do the bells say?", "That a train is coming, and of what sort."),
    ],
    "Roles": [("foreign", "cy", "Croeso i bawb: mae angen *dwylo* arnom.")],
}
FILM = b"\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom" + bytes(1200)
CAPTIONS = b"WEBVTT\n\n00:00.000 --> 00:04.000\nThe first train of the year leaves Quillmere Town.\n"


class Writer:
    """Makes titles and paragraphs; the same seed gives the same words."""

    def __init__(self, seed: int):
        self.random = random.Random(seed)

    def fill(self, template: str) -> str:
        r = self.random
        place, place2 = r.sample(PLACES, 2)
        return template.format(
            place=place,
            place2=place2,
            engine=r.choice(ENGINES)[0],
            person=r.choice(PEOPLE),
            month=r.choice(MONTHS),
            season=r.choice(SEASONS),
            day=r.choice(DAYS),
            part=r.choice(PARTS),
            number=r.randrange(12, 980),
        )

    def title(self) -> str:
        return self.fill(self.random.choice(TITLES))

    def paragraph(self) -> str:
        r = self.random
        middles = r.sample(MIDDLES, r.randrange(2, 5))
        return " ".join(self.fill(t) for t in [r.choice(OPENERS), *middles, r.choice(CLOSERS)])

    def sentence(self) -> str:
        return self.fill(self.random.choice(MIDDLES))
