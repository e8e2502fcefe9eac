"""lighttpd: a script that holds the lines, and rewrite rules for the patterns (Lua has no regular expressions).

A pattern rewrites the request to an address of the script's own, so that one script decides all, in the map's order. In
no spelling can that address be asked for from outside: it would lead wherever the asker says. A first rule rewrites
such a request to nothing, and the script looks at what was sent as well.
Sources: lighttpd 1.4 documentation (mod_rewrite, mod_magnet, server.http-parseopts), src/burl.c for the normal form.
"""

from __future__ import annotations

import re

from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import RedirectMap, map_of

from .bounds import Bound
from .kept import held, per_map
from .lines import NO_HEAD, Beyond, Head, filled, head_lines, proven, remarked, remarks, target, text, value
from .reading import Seen, Tables, folded, look_up, seen, tables_of
from .stages import Entry, portable

CONF, SCRIPT = "redirects.lighttpd.conf", "redirects.lua"
_OWN, _NOBODY = "/.gf-pattern/", "/.gf-nobody"


@per_map
def _tables(redirects: RedirectMap) -> Tables:
    return tables_of(redirects.exact.values())


def _cannot(redirects: RedirectMap) -> list[Beyond]:
    return [Beyond(r, Bound.CONTROLS) for r in redirects.exact.values() if _CONTROL.search(r.old)]


_held = held(_cannot)


class Lighttpd:
    """lighttpd, as ``ports.servers.Server``."""

    name = "lighttpd"

    def write(self, redirects: RedirectMap, head: Head = NO_HEAD) -> dict[str, bytes]:
        redirects = _held(redirects)
        conf = [
            *(f"# {line}" for line in head_lines(head, redirects, self.bounds(redirects))),
            f"# Set var.redirects to the folder of {SCRIPT} and include this file after server.modules.",
            'server.modules += ( "mod_rewrite", "mod_magnet" )',
        ]
        rules = [f'  "^/\\.gf-" => "{_NOBODY}"']
        rules += [f'  "{regex}" => "{_OWN}{_rewritten(said)}"' for regex, said in _patterns(redirects)]
        conf += ["url.rewrite-once += (", ",\n".join(rules), ")"]
        conf += [f'magnet.attract-raw-url-to += ( var.redirects + "/{SCRIPT}" )', *remarks(redirects.redirects)]
        return {CONF: text(conf), SCRIPT: _script(_rows(redirects))}

    def read(self, files: dict[str, bytes]) -> RedirectMap:
        conf = files[CONF].decode("utf-8", "surrogateescape")
        lines = remarked(conf)
        redirects = map_of(lines)
        found = [(row[1], _unwritten(row[2])) for row in re.finditer(rf'^  "(.*)" => "{_OWN}(.*)",?$', conf, re.M)]
        return proven(
            lines,
            {"patterns": _patterns(redirects), "lines": _rows(redirects)},
            {"patterns": found, "lines": _read_script(files[SCRIPT])},
        )

    def answer(self, redirects: RedirectMap, request: str) -> Answer | None:
        redirects = _held(redirects)
        if _CONTROL.search(request):
            return None
        return look_up(redirects, _tables(redirects), _seen(request))

    def cannot(self, redirects: RedirectMap) -> list[Beyond]:
        return _cannot(redirects)

    def bounds(self, redirects: RedirectMap) -> list[Bound]:
        return [Bound.NORMALISED, Bound.CONTROLS]


_CONTROL = re.compile(r"%(?:[01][0-9A-Fa-f]|7[fF])")
_UNRESERVED = re.compile(r"%(?:2[DE]|3[0-9]|4[1-9A-F]|5[0-9AF]|6[1-9A-F]|7[0-9AE])")
_REQUIRED = re.compile(r"[^!$&\'()*+,\-./0-9:;=?@A-Z_a-z~%]|%(?![0-9A-F]{2})")


def _normalised(request: str) -> str:
    """A request as lighttpd holds patterns against it: escapes in upper case, none of unreserved characters, those that
    are required."""
    made = re.sub("%[0-9a-fA-F]{2}", lambda m: m[0].upper(), request)
    made = _UNRESERVED.sub(lambda m: chr(int(m[0][1:], 16)), made)
    made = _REQUIRED.sub(lambda m: "".join(f"%{b:02X}" for b in m[0].encode("utf-8", "surrogateescape")), made)
    path, mark, query = made.partition("?")
    return folded(path.replace("%2F", "/")) + mark + query


def _seen(request: str) -> Seen:
    made = _normalised(request)
    return seen(request)._replace(whole=_NOBODY if made.startswith("/.gf-") else made)


def _patterns(redirects: RedirectMap) -> list[Entry]:
    return [(f"^(?:{portable(line.old)})$", value(line, target(line.new))) for _, line in redirects.patterns]


def _rewritten(said: str) -> str:
    """An answer as a rewrite rule holds it: with its status, so that it never begins with a slash (two are merged)."""
    said = f"301:{said}" if said.startswith(("/", "http")) else said
    return filled(said.replace("%", "%%"), "${}")


def _unwritten(said: str) -> str:
    return re.sub(r"\$(\d)", r"{\1}", said.removeprefix("301:")).replace("%%", "%")


def _rows(redirects: RedirectMap) -> list[Entry]:
    """The script's lines: the name of the table and the key (with a tab between), and the answer."""
    tables = _tables(redirects)
    made = [(f"sent\t{key}", value(line, line.new)) for key, line in tables.sent.items()]
    made += [(f"plain\t{key}", value(line, line.new)) for key, line in tables.plain.items()]
    return made + [(f"folder\t{line.old}", value(line, line.new)) for line in redirects.prefixes]


def _script(rows: list[Entry]) -> bytes:
    data = "".join(f"{key}\t{said}\n" for key, said in rows)
    level = 1
    while f"]{'=' * level}]" in data:
        level += 1
    made = _LUA.replace("LINES", f"[{'=' * level}[\n{data}]{'=' * level}]", 1)
    return made.encode("utf-8", "surrogateescape")


def _read_script(script: bytes) -> list[Entry]:
    """The lines that the script's long string holds (Lua drops the line end after its opening)."""
    held = re.search(rb"\[(=+)\[\n(.*?)\]\1\]", script, re.S)
    rows = held[2].decode("utf-8", "surrogateescape").split("\n") if held else []
    return [(key, said) for key, _, said in (row.rpartition("\t") for row in rows if row)]


_LUA = """\
local known = package.loaded["gf_redirects"]
if not known then
  known = { sent = {}, plain = {}, folder = {} }
  local lines = LINES
  for stage, key, to in lines:gmatch("(%a+)\\t([^\\t\\n]*)\\t([^\\n]*)\\n") do known[stage][key] = to end
  package.loaded["gf_redirects"] = known
end

local function upper(text) return (text:gsub("%%%x%x", string.upper)) end

local function decoded(path)
  path = path:gsub("%%(%x%x)", function(hex) return string.char(tonumber(hex, 16)) end):gsub("//+", "/")
  if not path:find("/%.") then return path end
  local out, last = {}, ""
  for part in path:gmatch("/([^/]*)") do
    if part == ".." then out[#out] = nil elseif part ~= "." then out[#out + 1] = part end
    last = part
  end
  if (last == "." or last == "..") and (#out == 0 or out[#out] ~= "") then out[#out + 1] = "" end
  return "/" .. table.concat(out, "/")
end

local function under(path)
  if next(known.folder) == nil then return end
  if known.folder[path .. "/"] then return path .. "/", known.folder[path .. "/"] end
  local at = #path
  while at > 0 do
    local head = path:sub(1, at)
    local to = known.folder[head]
    if to and (at == #path or head:sub(-1) == "/" or path:sub(at + 1, at + 1) == "/") then return head, to end
    at = at - 1
  end
end

local function carried(head, to, path)
  local status, new = to:match("^(30%d:)(.*)$")
  if not status then status, new = "", to end
  local rest = path:sub(#head + 1)
  if to == "410" or rest == "" then return to end
  new = new:gsub("/+$", "")
  if head:sub(-1) == "/" then new = new .. "/" end
  return status .. new .. rest
end

local asked, own = lighty.r.req_attr["request.orig-uri"], lighty.r.req_attr["request.uri"]
local raw, query = asked:match("^([^?]*)%??(.*)$")
raw, query = upper(raw), upper(query)
local path = decoded(raw)
local full, sent = path, raw
if query ~= "" then full, sent = path .. "?" .. query, raw .. "?" .. query end
local to = known.sent[sent] or known.plain[full]
if not to and own ~= asked and own:sub(1, OWN) == "PREFIX" and path:sub(1, 5) ~= "/.gf-" then to = own:sub(OWN + 1) end
if not to and query ~= "" then to = known.sent[raw] or known.plain[path] end
if not to then
  local head, said = under(raw)
  if head then to = carried(head, said, raw) end
end
if not to then return end
if to == "410" then return 410 end
local status, new = to:match("^(30%d):(.*)$")
if not status then status, new = "301", to end
lighty.r.resp_header["Location"] = new:gsub("^//+", "/"):gsub("^(https?:)/+", "%1//")
return tonumber(status)
""".replace("OWN", str(len(_OWN))).replace("PREFIX", _OWN)
