"""The scope of a survey out of the plan: its hosts, its bounds, and the starting rules of a known system."""

from __future__ import annotations

from ..address import Scope, www
from ..plan import SidePlan
from .systems import preset


def scope_of(side: SidePlan) -> Scope:
    """The scope that the survey of a side may move in."""
    scheme, host, site, survey = side.scheme, side.host, side.site, side.survey
    rules = preset(survey.preset)
    aliases = {alias.lower() for alias in site.aliases}
    apart = {host, *(name.lower() for name in (*site.hosts, *site.file_hosts))}
    for name in (host, *sorted(aliases)):  # with and without www is one site, unless somebody says otherwise
        aliases.add(www(name))
    aliases -= apart
    return Scope(
        hosts=frozenset([host, *(h.lower() for h in site.hosts)]),
        below_host=host.removeprefix("www.") if survey.subdomains else "",
        admitted=frozenset(survey.admit),
        file_hosts=frozenset(h.lower() for h in site.file_hosts),
        aliases=dict.fromkeys(sorted(aliases), (scheme, host)),
        below=tuple(survey.below),
        include=tuple(survey.include),
        exclude=(*survey.exclude, *(rules.exclude if rules else ())),
        depth=survey.depth,
        scheme=scheme,
        dropped=frozenset(name.lower() for name in (*survey.drop_parameters, *(rules.drop if rules else ()))),
    )
