"""The language of code, as pages name it."""

from __future__ import annotations

import pytest

from grandferry.core.page import parse
from grandferry.core.refit.convert import refit_nodes
from grandferry.core.refit.write import to_markdown


@pytest.mark.parametrize(
    ("html", "language"),
    [
        ('<pre><code class="language-rust">{}</code></pre>', "rust"),
        ('<pre class="lang-js">{}</pre>', "js"),
        ('<pre class="brush: php">{}</pre>', "php"),
        ('<pre class="brush: ruby; gutter: false">{}</pre>', "ruby"),
        ('<pre class="brush:sql;toolbar:false">{}</pre>', "sql"),
        ('<div class="highlight-source-shell"><pre>{}</pre></div>', "shell"),
        ('<div class="highlight-python"><div class="highlight"><pre>{}</pre></div></div>', "python"),
        ('<pre class="python">{}</pre>', "python"),
        ('<pre class="prettyprint"><code class="C++">{}</code></pre>', "c++"),
        ('<pre lang="go">{}</pre>', "go"),
        ('<pre data-lang="toml">{}</pre>', "toml"),
        ('<pre data-code-language="perl extra">{}</pre>', "perl"),
        ('<pre lang="de">{}</pre>', ""),
        ('<pre class="code-block wide">{}</pre>', ""),
        ('<div class="python"><pre>{}</pre></div>', ""),  # a section about it, perhaps
        ("<pre>{}</pre>", ""),
    ],
)
def test_the_language_is_the_one_the_page_names(html: str, language: str) -> None:
    page = parse(html.format("a = 1"))
    assert to_markdown(refit_nodes(page, [page.body]).blocks) == f"```{language}\na = 1\n```\n"
