// @vitest-environment jsdom
/** What every answer of the server becomes for the page. */
import { beforeEach, describe, expect, it, vi } from "vitest";

import { ApiProblem, api } from "./client";

/** The server: what was asked of it, and what it answers. The client takes the browser's own `fetch` when it is loaded. */
const server = vi.hoisted(() => {
  const server = {
    asked: [] as Request[],
    answer: (): Promise<Response> => Promise.reject(new Error("nothing is answered yet")),
  };
  const Plain = Request;
  vi.stubGlobal(
    "Request",
    class extends Plain {
      constructor(at: string, draft: RequestInit) {
        super(new URL(at, "http://hewel.test"), draft);
      }
    },
  );
  vi.stubGlobal("fetch", (request: Request) => {
    server.asked.push(request);
    return server.answer();
  });
  return server;
});
const answers = (make: () => Response) => {
  server.answer = () => Promise.resolve(make());
};
const json = (status: number, body: unknown) => () =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const refusal = (call: Promise<unknown>): Promise<ApiProblem> =>
  call.then(
    () => expect.fail("it was not refused"),
    (e: unknown) => e as ApiProblem,
  );

beforeEach(() => {
  server.asked.length = 0;
  document.cookie = "csrftoken=a%20token";
});

describe("a call of the server", () => {
  it("gives what was answered", async () => {
    answers(json(200, [{ name: "Mast clevis" }]));
    expect(await api.parts()).toEqual([{ name: "Mast clevis" }]);
  });

  it("shows the token where something is written, and nowhere else", async () => {
    answers(json(200, {}));
    await api.parts();
    await api.signIn("marrow", "x");
    expect(server.asked.map((r) => r.headers.get("X-CSRFToken"))).toEqual([null, "a token"]);
  });

  it("is refused in the server's own words, with what clashed", async () => {
    const clashes = [{ path: "desk.height" }];
    answers(json(409, { code: "clash", message: "Somebody wrote there too.", hint: "Look at both.", clashes }));
    const result = await refusal(api.parts());
    expect(result).toBeInstanceOf(ApiProblem);
    expect([result.status, result.code, result.message, result.hint, result.clashes]).toEqual([
      409,
      "clash",
      "Somebody wrote there too.",
      "Look at both.",
      clashes,
    ]);
  });

  it("says that one is signed out, that the server is in trouble, or that it does not answer", async () => {
    answers(json(401, {}));
    expect((await refusal(api.parts())).hint).toBe("Sign in again.");
    answers(() => new Response("<h1>bad gateway</h1>", { status: 502 }));
    expect((await refusal(api.parts())).message).toBe("The server answered 502.");
    server.answer = () => Promise.reject(new TypeError("network"));
    expect((await refusal(api.parts())).code).toBe("offline");
  });
});
