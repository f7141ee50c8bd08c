import { describe, expect, it } from "vitest";
import { need, Refusal, sentenceOf } from "./client";

const answer = (status: number, part: object) =>
  Promise.resolve({ response: new Response(null, { status }), ...part });

describe("refusals", () => {
  it.each([
    [{ detail: "Not yet." }, 409, "Not yet."],
    [null, 413, "larger than the server takes"],
    [null, 0, "cannot be reached"],
    [null, 500, "Nothing was changed"],
    [{ other: 1 }, 502, "(502)"],
  ])("%#", (body, status, words) => expect(sentenceOf(body, status)).toContain(words));

  it("give the data of a good answer", async () => {
    await expect(need(answer(200, { data: { id: 3 } }))).resolves.toEqual({ id: 3 });
  });

  it("carry the server's sentence and status", async () => {
    const refused = need(answer(409, { error: { detail: "Work goes on." } }));
    await expect(refused).rejects.toThrow("Work goes on.");
    await expect(refused).rejects.toMatchObject({ status: 409 });
  });

  it("say when the server is not there", async () => {
    const lost = need(Promise.reject(new TypeError("fetch failed")));
    await expect(lost).rejects.toBeInstanceOf(Refusal);
    await expect(lost).rejects.toThrow("cannot be reached");
  });
});
