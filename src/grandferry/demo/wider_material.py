"""More hand-written material: what only the whole old site holds."""

from __future__ import annotations

GOODS = ["Mug", "Scarf", "Tea towel", "Badge", "Poster", "Jigsaw", "Notebook", "Oil can", "Flat cap", "Print"]
PATTERNS = ["Carriage Brown", "Engine Green", "Signal Red", "Coal Black"]
SIZES = ["Small", "Medium", "Large"]
STOCK = ["In stock", "A few left", "To order"]
EVENTS = ["Steam gala", "Driving day", "Model weekend", "Night of the lamps", "Track walk", "Brass band Sunday"]
CREW = [
    ("Dilys Marrow", "Secretary"),
    ("Tom Ackerley", "Driver"),
    ("Petra Vane", "Signaller"),
    ("Owen Strake", "Fitter"),
    ("Hetty Lorimer", "Guard"),
    ("Jonas Birdsall", "Carpenter"),
    ("Mabel Tranter", "Fireman"),
    ("Silas Penhaligan-Rook", "Archivist"),
    ("Ottilie Brack", "Booking clerk"),
    ("Caradog Fenn", "Platelayer"),
]
ROLES = ["Booking Clerk", "Car Park Steward", "Carriage Cleaner", "Crossing Keeper", "Fireman", "Guard"]
ROLES += ["Museum Guide", "Platelayer", "Shop Assistant", "Tea Room Cook"]
GALLERIES = ["Spring gala", "The big freeze", "Coach 14 before and after", "Faces of the line", "Viaduct from below"]
GALLERIES += ["Opening of platform two", "Boiler on the move", "Lamps and lanterns"]
READERS = [
    "Wilf Catterick",
    "Nan Ottery",
    "Piers Lumley",
    "Greta Holt",
    "Old Lamplighter",
    "Tess Arkwright",
    "Ned of Tarn Head",
]
MEMBERS = ["A. Gorse", "B. Teasdale", "C. Wimble", "D. Okehurst", "E. Farrow", "F. Pellow", "G. Strand", "H. Munt"]
# the valley's other tongue, made up
CY_TITLES = ["Trên newydd i {place}", "Dydd yr orsaf yn {place}", "Galw am wirfodd yn {place}", "Gwanwyn ar y lein"]
CY_TITLES += ["Te a bara brithe yn {place}", "{engine} dan stêm", "Pont {place} ar gau"]
CY_SENTENCES = [
    "Mae'r trên yn gadael {place} am ddeg o'r gloch, a'r band yn canu'n llon.",
    "Daeth {number} o bobl i {place}, a bu raid agor yr ail giât.",
    "Diolchwn i {person} am y gacen a'r glo.",
    "Bydd {engine} yn ôl ar y cledrau cyn y gaeaf, os caiff y boeler ei wala.",
    "Mae angen {number} o gysgwyr newydd rhwng {place} a {place2}.",
]
CY_PAGES = ["Hanes y lein", "Amserlen", "Prisiau", "Cysylltu â ni", "Yr amgueddfa", "Gwirfoddolwyr"]
FOUND = ["A bill found behind the clock", "What the porter wrote on the wall", "Three tickets and a pressed flower"]
THINGS = ["Hand lamp", "Flag, green", "Flag, red", "Kettle", "Broom", "Coal scuttle", "Whistle", "Ledger", "Bench"]
STATIONS = ["Quillmere Town", "Osmer Halt", "Tarn Head", "Saltmarrow Quay", "Carrowmere Road", "Brackwater Junction"]
PANELS = ["Getting there", "Steps and ramps", "Tickets and times", "Dogs and bicycles"]
SOUPS = ["Leek soup", "Pea soup", "Barley broth", "Nettle soup", "Oxtail", "Turnip cream", "Onion soup", "Fish stew"]
CAKES = [
    "Bara brith",
    "Ginger loaf",
    "Seed cake",
    "Plum tart",
    "Oat biscuits",
    "Lemon drizzle",
    "Custard slice",
    "Fool",
]
DRINKS = ["Pot of tea", "Dandelion and burdock", "Cocoa", "Elder cordial", "Small beer", "Milk", "Perry", "Ginger ale"]
DISHES = [("Soups", SOUPS), ("Cakes", CAKES), ("To drink", DRINKS)]
WITH = ["butter", "chives", "rye bread", "cream", "honey", "pickle", "mint", "a biscuit", "pepper", "damson jam"]
SOUNDS = ["The morning bell", "A goods train on the bank", "The last whistle", "Rain on the canopy", "The porter sings"]
SOUNDS += ["Milk churns", "The signal wires", "A slammed door", "Sheep in the siding", "The tea urn"]
