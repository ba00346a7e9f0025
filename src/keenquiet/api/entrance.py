"""The page that asks for the passcode: plain HTML, since nothing else may be fetched before."""

from html import escape

_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Keen Quiet</title><style>
body {{ font: 17px/1.5 system-ui, sans-serif; background: #f6f1e7; color: #20242c; margin: 0; }}
main {{ max-width: 22rem; margin: 16vh auto 0; padding: 0 1.25rem; }}
h1 {{ font-size: 2rem; margin: 0 0 .25rem; }}
label {{ display: block; font-weight: 600; margin-top: 1.25rem; }}
input, button {{ font: inherit; width: 100%; box-sizing: border-box; padding: .7rem .9rem; border-radius: .8rem; }}
input {{ border: 1.5px solid #6d675c; background: #fffdf8; color: inherit; }}
button {{ border: 0; background: #2f5d50; color: #fffdf8; font-weight: 700; margin-top: .9rem; cursor: pointer; }}
button.quiet {{ background: none; color: inherit; border: 1.5px solid #6d675c; }}
p.said {{ border-left: 4px solid #a8431b; padding-left: .7rem; }}
@media (prefers-color-scheme: dark) {{ body {{ background: #191b20; color: #f0ebdf; }}
  input {{ background: #23262d; }} }}
a {{ color: inherit; font-weight: 600; }}
</style></head><body><main><h1>Keen Quiet</h1>{said}{asked}</main></body></html>"""
_UNKNOWN = """<form method="post" action="/enter"><label for="code">Passcode</label>
<input id="code" name="passcode" type="password" autocomplete="current-password" autofocus required>
<button>Come in</button></form>
<p>It stands in the terminal in which Keen Quiet was started.</p>"""
_SCANNED = """<form method="post" action="/enter"><input type="hidden" name="word" value="{word}">
<button autofocus>Come in</button></form>
<p>The code that you scanned lets one device in, within ten minutes.</p>"""
_KNOWN = """<p>This device has come in.</p>
<form method="post" action="/enter"><input type="hidden" name="everywhere" value="1">
<button class="quiet">Sign out everywhere</button></form><p><a href="/">Back to the rooms</a></p>"""


def entrance_page(said: str = "", *, known: bool = False, word: str = "") -> str:
    """HTML. said : what happened to the last try. known : this visitor has come in already and may sign all out. word :
    of a scanned code, used at a press, for what looks at an address before somebody opens it must not use it up.
    """
    asked = _KNOWN if known else _SCANNED.format(word=escape(word)) if word else _UNKNOWN
    return _PAGE.format(said=f'<p class="said" role="alert">{escape(said)}</p>' if said else "", asked=asked)
