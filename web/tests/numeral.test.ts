import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { type DecimalMark, numeral } from "../src/ui/numeral";

type Case = [text: string, mark: DecimalMark, value: number | null];
const { cases } = JSON.parse(readFileSync(`${process.env.HYDRARCH_CASES}/numbers.json`, "utf-8")) as { cases: Case[] };

test("a figure is read as the core reads it, or refused as there", () => {
  for (const [text, mark, value] of cases) assert.equal(numeral(text, mark), value, `${text} ${mark}`);
});
