"""A signed-in client of the API, without a browser."""

import http.cookiejar
import json
import urllib.request
import uuid


class Client:
    def __init__(self, address: str, name: str, password: str):
        self.address, self.jar = address, http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(
            urllib.request.ProxyHandler({}), urllib.request.HTTPCookieProcessor(self.jar)
        )
        self.opener.open(address).read()
        self.send("session", {"username": name, "password": password})

    def _headers(self) -> dict[str, str]:
        token = next(c.value for c in self.jar if c.name == "csrftoken")
        return {"X-CSRFToken": token, "Referer": self.address}

    def read(self, path: str) -> bytes:
        with self.opener.open(f"{self.address}api/{path}") as answer:
            return answer.read()

    def get(self, path: str):
        return json.loads(self.read(path))

    def send(self, path: str, body: dict, method: str = "POST"):
        heads = self._headers() | {"Content-Type": "application/json"}
        request = urllib.request.Request(f"{self.address}api/{path}", json.dumps(body).encode(), heads, method=method)
        with self.opener.open(request) as answer:
            return json.load(answer)

    def upload(self, name: str, data: bytes) -> dict:
        """Brings a file in; the answer is the order of its reading."""
        mark = uuid.uuid4().hex
        head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
        body = head.encode() + data + f"\r\n--{mark}--\r\n".encode()
        heads = self._headers() | {"Content-Type": f"multipart/form-data; boundary={mark}"}
        with self.opener.open(urllib.request.Request(f"{self.address}api/parts", body, heads)) as answer:
            return json.load(answer)
