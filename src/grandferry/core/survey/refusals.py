"""Pages that are no content: sign-in forms, checks whether a person is asking, and answers that hold nothing.

Such an answer comes with 200 as well. It is told by several marks together, since a single one (a small sign-in box in
a header, the word "password" in a text) stands on many a good page.
"""

from __future__ import annotations

import re

SIGN_IN = "sign-in needed"
CHALLENGE = "asks whether a person is there"
EMPTY = "empty answer"
ONE_PAGE = "the same page whatever was asked"
TURNS_AWAY = frozenset([CHALLENGE, EMPTY])  # said of many answers in a row, it is the host that wants to be left alone
FEW = 120  # words on a page that does nothing but ask for a password
BARE = 90  # words on a page that does nothing but check the visitor

_SIGN_IN_PLACE = re.compile(
    r"(?:^|[/?&=_.-])(?:log[-_]?(?:in|on)|sign[-_]?(?:in|on)|signin|anmeld\w*|einloggen|connexion|identification|"
    r"iniciar[-_]sesion|acceso|accedi|inloggen|logga[-_]in|mewngofnodi|auth(?:enticate|entication)?|sso)(?=$|[/?&=_.-])",
    re.I,
)
_SIGN_IN_WORDS = re.compile(
    r"\b(?:sign|log) ?(?:in|on)\b|\banmelde\w*|\beinloggen\b|\bse connecter\b|\bconnexion\b|\biniciar sesión\b|"
    r"\baccedi\b|\binloggen\b|\bmewngofnodi\b|\bmembers only\b|\bpassword required\b",
    re.I,
)
_CHALLENGE_WORDS = re.compile(
    r"\b(?:verify|verifying|confirm|prove)\b.{0,30}\b(?:human|person|not a robot)\b|\bare you (?:a )?(?:human|robot)\b|"
    r"\bchecking (?:your|the) (?:browser|connection)\b|\b(?:un)?usual traffic\b|\baccess (?:is |was "
    r")?(?:denied|blocked)\b|"
    r"\btoo many requests\b|\byou have been blocked\b|\benable (?:javascript and )?cookies to "
    r"(?:continue|proceed)\b|\bcaptcha\b",
    re.I | re.S,
)


def refusal(key: str, title: str, headings: list[str], seen: str, words: int, asks_password: bool) -> str:
    """Why an answer of 200 is no content: SIGN_IN, CHALLENGE or "" when it is content.

    ``key`` is the address's path with query; ``seen`` the text a visitor sees, of so many ``words``;
    ``asks_password``: the page holds a field for one.
    """
    named = " ".join([title, *headings])
    if asks_password and (_SIGN_IN_PLACE.search(key) or (words < FEW and _SIGN_IN_WORDS.search(named))):
        return SIGN_IN
    if words < BARE and _CHALLENGE_WORDS.search(f"{named} {' '.join(seen.split())}"):
        return CHALLENGE
    return ""


def is_sign_in(key: str) -> bool:
    """Whether an address looks like the door itself: a redirect that leads there says that a sign-in is needed."""
    return bool(_SIGN_IN_PLACE.search(key))
