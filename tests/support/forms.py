"""The forms of a page as a browser would send them, untouched."""

from dataclasses import dataclass, field
from html.parser import HTMLParser


@dataclass
class PageForm:
    action: str
    method: str
    values: dict[str, list[str]] = field(default_factory=dict)

    def put(self, name, value):
        self.values.setdefault(name, []).append(value)


class _Forms(HTMLParser):
    def __init__(self):
        super().__init__()
        self.found, self.here, self.select, self.text = [], None, None, None

    def handle_starttag(self, tag, attrs):
        known = dict(attrs)
        if tag == "form":
            self.here = PageForm(known.get("action", ""), known.get("method", "get").lower())
            self.found.append(self.here)
        elif self.here is None:
            return
        elif tag == "input" and known.get("name") and known.get("type") not in ("checkbox", "radio", "submit", "file"):
            self.here.put(known["name"], known.get("value") or "")
        elif tag == "input" and known.get("type") in ("checkbox", "radio") and "checked" in known:
            self.here.put(known["name"], known.get("value") or "on")
        elif tag == "select":
            self.select = known["name"], []
        elif tag == "option" and self.select:
            self.select[1].append((known.get("value") or "", "selected" in known))
        elif tag == "textarea":
            self.text = known["name"], ""

    def handle_data(self, data):
        if self.text:
            self.text = self.text[0], self.text[1] + data

    def handle_endtag(self, tag):
        if tag == "form":
            self.here = None
        elif tag == "select" and self.select and self.here:
            name, options = self.select
            if options:
                self.here.put(name, next((value for value, chosen in options if chosen), options[0][0]))
            self.select = None
        elif tag == "textarea" and self.text and self.here:
            self.here.put(*self.text)
            self.text = None


def forms_of(page):
    """All forms of a page's text."""
    reader = _Forms()
    reader.feed(page)
    return reader.found
