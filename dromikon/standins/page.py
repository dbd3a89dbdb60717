"""The frame of the stand-ins' own pages."""

import html
from collections.abc import Iterable

from starlette.responses import HTMLResponse

STYLE = """
:root{color-scheme:light dark;font:16px/1.5 system-ui,sans-serif;--line:light-dark(#cdc6b8,#3c4147);--paper:light-dark(#f6f2e9,#171a1e);
--ink:light-dark(#23252a,#e7e3d8);--own:light-dark(#6b1f45,#d48bb0);--quiet:light-dark(#5b5a55,#a8a69d)}
body{margin:0;background:var(--paper);color:var(--ink)}main{max-width:46rem;margin:3rem auto;padding:0 1.5rem}main.wide{max-width:78rem;margin:1.5rem auto}
h1{font-size:1.5rem;margin:0 0 .25rem}h2{font-size:1rem;margin:2rem 0 .25rem;color:var(--quiet);font-weight:600}
p{margin:.25rem 0 1rem;color:var(--quiet)}form{display:grid;grid-template-columns:1fr auto;gap:.15rem 1.5rem;padding:.7rem 0;border-top:1px solid var(--line)}
form span{grid-column:1;color:var(--quiet);font-size:.9rem}form b{grid-column:1}button{grid-column:2;grid-row:1/3;align-self:center;
font:inherit;padding:.4rem 1.1rem;border:1px solid var(--own);background:none;color:var(--own);border-radius:2px;cursor:pointer}
button:hover{background:var(--own);color:var(--paper)}.done{padding:.6rem .9rem;border-left:4px solid var(--own);background:light-dark(#fff,#20242a)}
nav a{color:var(--own);margin-right:1.2rem}a{color:var(--own)}
.grid{columns:3;column-gap:1.75rem}.grid section{break-inside:avoid;margin-bottom:1.5rem}.grid h2{margin:0;padding-bottom:.3rem;border-bottom:1px solid var(--line);color:var(--ink)}
.item{padding:.5rem 0;border-bottom:1px solid var(--line);font-size:.85rem;overflow-wrap:anywhere}.item time{float:right;color:var(--quiet);font-variant-numeric:tabular-nums}
.item b{display:block;font-size:.9rem}.item div{white-space:pre-line}.item small{color:var(--quiet)}.item audio{width:100%;height:2rem;margin-top:.3rem}.item img{width:48%;margin:.3rem 1% 0 0}
.looks{display:grid;grid-template-columns:repeat(3,1fr);gap:1rem 1.75rem;margin:1rem 0 1.5rem}.looks img{width:100%;height:auto;display:block;background:#000}.looks figure{margin:0}
.looks.six{grid-template-columns:repeat(6,1fr)}.looks figcaption{font-size:.85rem;color:var(--quiet)}.on{color:var(--own);font-weight:600}
"""


def page(title: str, body: str, *, refresh: int = 0, wide: bool = False) -> HTMLResponse:
    """A page; one that shows what comes asks again after some seconds."""
    again = f'<meta http-equiv="refresh" content="{refresh}">' if refresh else ""
    links = '<nav><a href="/">Provoke</a><a href="/received">Received</a><a href="/portraits">Portraits</a></nav>'
    return HTMLResponse(
        f'<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">{again}'
        f"<title>{html.escape(title)}</title><style>{STYLE}</style>"
        f"<main{' class=wide' if wide else ''}>{links}<h1>{html.escape(title)}</h1>{body}</main></html>",
        headers={
            "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; img-src 'self'; media-src 'self'; form-action 'self'"
        },
    )


def joined(parts: Iterable[str]) -> str:
    return "".join(parts)
