"""A person with a browser, and what is kept behind the pages."""

import html
import re

from isostasis.store import scenes


class Reader:
    """A person with a browser that sends tokens, follows where it is told, and sends what a page sends once loaded."""

    def __init__(self, app):
        self.client = app.test_client()
        page = self.client.get("/pair").text  # the lightest
        self.token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]

    def get(self, url, status=200):
        answer = self.client.get(url)
        assert answer.status_code == status, answer.text
        if answer.mimetype == "text/html":
            for begun in re.findall(r'hx-post="([^"]+)"[^>]*hx-trigger="load"', answer.text):
                self.post(begun)
        return answer

    def source(self, url):
        """The page as it was sent, spaces and line breaks alike."""
        return " ".join(self.get(url).text.split())

    def text(self, url):
        """What can be read on the page."""
        return " ".join(html.unescape(re.sub(r"<[^>]+>", " ", self.get(url).text)).split())

    def post(self, url, status=303, **values):
        """`base_` stands for a form's field `base`, and so on; lists are sent as repeated fields."""
        data = {name.rstrip("_"): value for name, value in values.items()}
        answer = self.client.post(url, data={"csrf_token": self.token, **data})
        assert answer.status_code == status, answer.text
        return answer


def document(database, slug="tarn"):
    with database.reading() as session:
        row = scenes.find(session, slug)
        return row.head.number, scenes.data_of(row.head)
