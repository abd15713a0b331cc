// Opens a report in a browser, uses it as a reader would, and prints what came
// of it as JSON. Usage: node look-at-report.mjs REPORT.html
// Or takes a picture: node look-at-report.mjs REPORT.html PICTURE.png [#PART]
import { chromium } from "playwright-core";
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { pathToFileURL } from "node:url";

const [file, shot, anchor = "#latest-figures"] = process.argv.slice(2);
const axe = readFileSync(
  createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8"
);
const browser = await chromium.launch({
  executablePath: process.env.BACKFILL_BROWSER || "/usr/bin/chromium",
  args: ["--no-sandbox"],
});

// A page with all that it says to the console and asks of other places.
async function open(options) {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 }, ...options,
  });
  const page = await context.newPage();
  const errors = [];
  const requests = [];
  page.on("console", (said) => {
    if (said.type() === "error") errors.push(said.text());
  });
  page.on("pageerror", (error) => errors.push(String(error)));
  page.on("request", (request) => {
    if (!/^(file|data|blob):/.test(request.url())) requests.push(request.url());
  });
  page.on("dialog", (dialog) => {
    errors.push("dialog: " + dialog.message());
    dialog.dismiss();
  });
  await page.goto(pathToFileURL(file).href);
  return { page, errors, requests };
}

async function violations(page) {
  await page.evaluate(axe);
  const found = await page.evaluate(() => window.axe.run(document, {
    runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"],
  }));
  return found.violations
    .filter((one) => ["serious", "critical"].includes(one.impact))
    .map((one) => `${one.id}: ${one.nodes[0].target.join(" ")}`);
}

async function makeAllLive(page) {
  for (const figure of await page.$$("figure")) {
    await figure.scrollIntoViewIfNeeded();
  }
  await page.waitForFunction(() =>
    [...document.querySelectorAll("figure .live")].every((one) =>
      one.querySelector(".main-svg")));
}

const out = {};
const { page, errors, requests } = await open({});
// For the documentation: the latest figures, or what else is named.
if (shot) {
  await page.locator(anchor).evaluate((part) => part.scrollIntoView());
  await page.waitForTimeout(2500);
  await page.screenshot({ path: shot });
  await browser.close();
  process.exit(0);
}
out.title = await page.title();
out.headings = await page.$$eval("h2", (all) => all.map((h) => h.textContent));
out.texts = await page.$eval("main", (main) => main.textContent);
out.alts = await page.$$eval("img.still", (all) => all.map((img) => img.alt));
out.tiles = await page.$$eval(".tile", (all) => all.map((t) => t.innerText));
await makeAllLive(page);
out.live = await page.$$eval("figure .live .main-svg", (all) => all.length > 0);

// The first figure's points, and what the pointer is told at one of them.
await page.locator("figure").first().scrollIntoViewIfNeeded();
out.points = await page.$eval("figure .live", (live) =>
  live.data.filter((trace) => trace.name && trace.mode === "lines" &&
    trace.fill !== "toself").map((trace) => ({
    name: trace.name, text: Array.from(trace.text), y: Array.from(trace.y),
  })));
out.hover = await page.evaluate(async () => {
  const live = document.querySelector("figure .live");
  const curve = live.data.findIndex((trace) =>
    trace.name && trace.mode === "lines" && trace.fill !== "toself");
  const point = Array.from(live.data[curve].y).findIndex((y) => y !== null);
  window.Plotly.Fx.hover(live, [{ curveNumber: curve, pointNumber: point }],
    [live.data[curve].xaxis + live.data[curve].yaxis]);
  await new Promise((done) => setTimeout(done, 200));
  const label = live.querySelector(".hoverlayer");
  return label ? label.textContent : "";
});

// The first table of several rows: sorted by its last column, then filtered.
const table = page.locator("section:not(#what-was-read) details").filter({
  has: page.locator("tbody tr:nth-child(6)"),
}).first();
await table.evaluate((details) => { details.open = true; });
const cells = () => table.locator("tbody tr:not([hidden])").evaluateAll(
  (rows) => rows.map((row) => [...row.cells].map((cell) => cell.textContent))
);
out.columns = await table.locator("thead th").evaluateAll(
  (all) => all.map((head) => head.textContent)
);
out.rows = await cells();
const value = out.columns.indexOf("value");
const head = table.locator("thead th").nth(value < 0 ? 0 : value);
await head.locator("button").press("Enter");
out.ascending = (await cells()).map((row) => row[value < 0 ? 0 : value]);
out.state = await head.getAttribute("aria-sort");
await head.locator("button").click();
out.descending = (await cells()).map((row) => row[value < 0 ? 0 : value]);
const word = out.rows[0][0];
await table.locator("input").fill(word);
out.filtered = await cells();
out.word = word;
await table.locator("input").fill("");
out.violations = await violations(page);
await page.emulateMedia({ media: "print" });
out.printed = await page.$$eval("figure", (all) => all.every((figure) =>
  getComputedStyle(figure.querySelector(".still")).display !== "none" &&
  getComputedStyle(figure.querySelector(".live")).display === "none"));
out.errors = errors;
out.requests = requests;

const dark = await open({ colorScheme: "dark" });
await makeAllLive(dark.page);
out.dark = await dark.page.evaluate(() =>
  getComputedStyle(document.body).backgroundColor);
out.darkViolations = await violations(dark.page);

const phone = await open({ viewport: { width: 390, height: 800 } });
out.phoneWidth = await phone.page.evaluate(() =>
  document.documentElement.scrollWidth);

const plain = await open({ javaScriptEnabled: false });
out.still = await plain.page.locator("img.still").evaluateAll(
  (all) => all.length).catch(() => null);
out.stillShown = await plain.page.locator("img.still").first().isVisible();
await browser.close();
console.log(JSON.stringify(out));
