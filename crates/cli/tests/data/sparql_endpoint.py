"""A SPARQL endpoint on this machine, around a real query engine.

    sparql_endpoint.py DATA [STYLE]

Prints its port, then answers until it is killed. STYLE says how it behaves: `post`, `get` (refuses POST), `locked` (asks for
the user ada with the password sesame), `slow`, `moved`, `page` (answers with a page), `broken` (ends in the middle of an answer).
It prints each question's length and the number of bytes of its answer.
"""

import base64
import sys
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlparse

import pyoxigraph

style = sys.argv[2] if len(sys.argv) > 2 else "post"
store = pyoxigraph.Store()
store.bulk_load(path=sys.argv[1], format=pyoxigraph.RdfFormat.TURTLE)


class Endpoint(BaseHTTPRequestHandler):
    def answer(self, status, body, kind="application/sparql-results+json", cut=0, headers=()):
        self.send_response(status)
        self.send_header("content-type", kind)
        self.send_header("content-length", str(len(body)))
        for name, value in headers:
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(body[: len(body) - cut])

    def ask(self, fields):
        expected = "Basic " + base64.b64encode(b"ada:sesame").decode()
        if style == "locked" and self.headers.get("authorization") != expected:
            return self.answer(401, b"who are you?", "text/plain")
        if style == "moved":
            return self.answer(301, b"", headers=[("location", "https://elsewhere.example/query")])
        if style == "page":
            return self.answer(200, b"<html>welcome</html>", "text/html")
        if style == "slow":
            time.sleep(20)
        try:
            found = store.query(fields["query"][0])
            body = found.serialize(format=pyoxigraph.QueryResultsFormat.JSON)
        except Exception as why:
            return self.answer(400, str(why).encode(), "text/plain")
        print(len(fields["query"][0]), len(body), flush=True)
        self.answer(200, body, cut=len(body) // 2 if style == "broken" else 0)

    def do_POST(self):
        body = self.rfile.read(int(self.headers["content-length"])).decode()
        if style == "get":
            return self.answer(405, b"")
        self.ask(parse_qs(body))

    def do_GET(self):
        self.ask(parse_qs(urlparse(self.path).query))

    def log_message(self, *_):
        pass


server = ThreadingHTTPServer(("127.0.0.1", 0), Endpoint)
print(server.server_address[1], flush=True)
server.serve_forever()
