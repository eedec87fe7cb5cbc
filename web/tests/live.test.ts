import assert from "node:assert/strict";
import { test } from "node:test";
import { page, uuid } from "../src/api/id";
import { Live, type News } from "../src/api/live";
import { Store } from "./plans";

/** Tabs of one browser: they share what it keeps and hear each other. */
class Browser {
  store = new Store();
  now = 0;
  open = 0;
  private hear: ((news: News) => void)[] = [];
  private beats: (() => void)[] = [];
  private streams: ((news: News) => void)[] = [];

  tab(name: string): Live {
    const mine: number = this.hear.length;
    return new Live({
      page: name,
      shelf: this.store,
      channel: {
        post: (news) => {
          this.hear.forEach((h, i) => {
            if (i !== mine) h(news);
          });
        },
        hear: (take) => void this.hear.push(take),
      },
      open: (onNews) => {
        this.open += 1;
        this.streams.push(onNews);
        return {
          close: () => {
            this.open -= 1;
            this.streams = this.streams.filter((s) => s !== onNews);
          },
        };
      },
      now: () => this.now,
      every: (act) => void this.beats.push(act),
    });
  }

  beat(skip = -1) {
    this.now += 2000;
    this.beats.forEach((b, i) => {
      if (i !== skip) b();
    });
  }

  send(news: News) {
    for (const s of [...this.streams]) s(news);
  }
}

const news: News = { job: "yard", what: "plan", revision: 2, by: "" };

test("seven tabs share one stream, and all hear", () => {
  const browser = new Browser();
  const heard = Array.from({ length: 7 }, () => [] as News[]);
  for (const [i, h] of heard.entries()) browser.tab(`tab ${i}`).listen((n) => void h.push(n));
  for (let i = 0; i < 5; i += 1) browser.beat();
  assert.equal(browser.open, 1);
  browser.send(news);
  assert.deepEqual(
    heard,
    Array.from({ length: 7 }, () => [news]),
  );
});

test("when the tab that holds it is left, another takes over", () => {
  const browser = new Browser();
  const [one, two] = [browser.tab("one"), browser.tab("two")];
  assert.deepEqual([one.holds, two.holds], [true, false]);
  one.leave();
  browser.beat(0);
  assert.deepEqual([two.holds, browser.open], [true, 1]);
});

test("when it falls silent, too, and steps down when it wakes", () => {
  const browser = new Browser();
  const [one, two] = [browser.tab("one"), browser.tab("two")];
  for (let i = 0; i < 5; i += 1) browser.beat(0);
  assert.deepEqual([one.holds, two.holds, browser.open], [true, true, 2]);
  browser.beat();
  assert.deepEqual([one.holds, two.holds, browser.open], [false, true, 1]);
});

test("names are random ones of version 4", () => {
  const made = new Set(Array.from({ length: 500 }, uuid));
  assert.equal(made.size, 500);
  for (const id of [...made, page])
    assert.match(id, /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
});
