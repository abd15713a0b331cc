// Opens a report in a browser, uses it as a reader would, and prints what came
// of it as JSON. Usage: node look-at-report.mjs REPORT.html
// Or only opens it, for what it asks of other places: REPORT.html --opened
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

// What is wrong with a page for those who cannot see it well. Its tables' rows
// are alike, and a figure is one picture with a label: all but the first rows,
// and the parts of figures, are thousands of nodes that take most of the time,
// so they are taken out first.
async function violations(page) {
  await page.evaluate(() => {
    document.querySelectorAll("figure svg > *, tbody tr:nth-child(n+4)")
      .forEach((part) => part.remove());
    document.querySelectorAll("details")
      .forEach((part) => { part.open = true; });
  });
  await page.evaluate(axe);
  const found = await page.evaluate(() => window.axe.run(document, {
    runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"],
  }));
  return found.violations
    .filter((one) => ["serious", "critical"].includes(one.impact))
    .map((one) => `${one.id}: ${one.nodes[0].target.join(" ")}`);
}

const out = {};
const { page, errors, requests } = await open({});
if (shot === "--opened") {
  await page.waitForTimeout(500);
  const title = await page.title();
  await browser.close();
  console.log(JSON.stringify({ title, errors, requests }));
  process.exit(0);
}
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
out.alts = await page.$$eval("figure svg", (all) =>
  all.map((svg) => svg.getAttribute("aria-label")));
out.tiles = await page.$$eval(".tile", (all) => all.map((t) => t.innerText));

// What the pointer is told at a point of the first figure, and the keys.
const figure = page.locator("figure").first();
const svg = figure.locator("svg");
const tip = page.locator(".tip");
await svg.scrollIntoViewIfNeeded();
const box = await svg.boundingBox();
const at = await figure.evaluate((one) => {
  const svg = one.querySelector("svg");
  const made = JSON.parse(one.querySelector("script").textContent);
  const mark = made.marks.find((one) => one.k === "line");
  const i = mark.y.findIndex((y) => y !== null);
  const point = svg.createSVGPoint();
  [point.x, point.y] = [mark.x[i], mark.y[i]];
  const place = point.matrixTransform(svg.getScreenCTM());
  return { x: place.x, y: place.y };
});
await page.mouse.move(at.x, at.y);
out.hover = await tip.textContent();
await svg.focus();
await page.keyboard.press("ArrowRight");
out.next_point = await tip.textContent();
out.whole = await svg.getAttribute("viewBox");
await page.mouse.move(box.x + box.width * 0.2, box.y + box.height * 0.3);
await page.mouse.down();
await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.6);
await page.mouse.up();
out.enlarged = await svg.getAttribute("viewBox");
await page.keyboard.press("Escape");
out.whole_again = await svg.getAttribute("viewBox");

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

// A series is chosen, and the address brings the choice back.
const choice = page.locator(".choice select");
out.choices = await choice.locator("option").allTextContents();
const second = await page.locator(".tile h3 button").nth(1);
out.chosen = await second.textContent();
await second.click();
out.lifted = await page.locator("figure svg.lifted").count();
out.figures = await page.locator("figure").count();
out.chosen_rows = await table.locator("tbody tr:visible").evaluateAll(
  (rows) => rows.map((row) => [...row.cells].map((cell) => cell.textContent))
);
out.address = await page.evaluate(() => window.location.hash);
await page.emulateMedia({ media: "print" });
out.printed = await page.$$eval("figure svg", (all) => all.every((svg) =>
  getComputedStyle(svg).display !== "none"));
await page.reload();
out.reopened = await choice.inputValue();
await page.emulateMedia({ media: "screen" });

// What is shown by periods of several lengths is seen by one at a time.
const alike = page.locator("section[data-alike]");
const shown = () => page.$$eval("section[data-alike]", (all) => all.filter(
  (part) => getComputedStyle(part).display !== "none").map((part) => part.id));
out.lengths = [...await shown()];
if (await alike.count()) {
  await alike.first().locator(".lengths button").nth(1).click();
  out.lengths.push(...await shown());
  const first = await alike.first().getAttribute("id");
  await page.evaluate((id) => { window.location.hash = id; }, first);
  await page.waitForTimeout(100);
  out.lengths.push(...await shown());
}
out.errors = errors;
out.requests = requests;

const dark = await open({ colorScheme: "dark" });
out.dark = await dark.page.evaluate(() =>
  getComputedStyle(document.body).backgroundColor);
out.darkViolations = await violations(dark.page);
const light = await open({});
out.violations = await violations(light.page);

const phone = await open({ viewport: { width: 390, height: 800 } });
out.phoneWidth = await phone.page.evaluate(() =>
  document.documentElement.scrollWidth);

const plain = await open({ javaScriptEnabled: false });
out.stillShown = await plain.page.locator("figure svg").first().isVisible();
await browser.close();
console.log(JSON.stringify(out));
