// Tables that sort and filter, and figures that answer to the pointer. Without
// this script the page has all of its content as well.
(function () {
  "use strict";

  // "1,234", "+5.6%", "-2.0 pp" and "<0.001" as numbers; else NaN.
  function numberOf(text) {
    var plain = text.replace(/,/g, "").replace(/^</, "").replace(/(%| pp)$/, "");
    return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain) ?
      Number(plain) : NaN;
  }

  // What is missing comes last, whichever way the rest is sorted.
  function sortRows(table, column, up) {
    var body = table.tBodies[0];
    var rows = Array.from(body.rows).map(function (row, place) {
      var text = row.cells[column].textContent;
      return { row: row, text: text, number: numberOf(text), place: place };
    });
    var numeric = rows.every(function (one) {
      return one.text === "" || !isNaN(one.number);
    });
    rows.sort(function (a, b) {
      if ((a.text === "") !== (b.text === "")) return a.text === "" ? 1 : -1;
      var order = numeric ? a.number - b.number :
        a.text.localeCompare(b.text, "en-GB");
      return (up ? order : -order) || a.place - b.place;
    });
    rows.forEach(function (one) { body.appendChild(one.row); });
  }

  function makeSortable(table) {
    Array.from(table.tHead.rows[0].cells).forEach(function (head, column) {
      var button = document.createElement("button");
      button.type = "button";
      button.textContent = head.textContent;
      head.textContent = "";
      head.appendChild(button);
      button.addEventListener("click", function () {
        var up = head.getAttribute("aria-sort") !== "ascending";
        Array.from(head.parentNode.cells).forEach(function (cell) {
          cell.removeAttribute("aria-sort");
        });
        head.setAttribute("aria-sort", up ? "ascending" : "descending");
        sortRows(table, column, up);
      });
    });
  }

  function makeFilter(frame, table) {
    if (table.tBodies[0].rows.length < 6) return;
    var label = document.createElement("label");
    var input = document.createElement("input");
    var count = document.createElement("span");
    label.className = "filter";
    input.type = "search";
    count.setAttribute("role", "status");
    label.append("Filter rows ", input, " ", count);
    frame.parentNode.insertBefore(label, frame);
    input.addEventListener("input", function () {
      var words = input.value.toLowerCase().split(/\s+/).filter(Boolean);
      var shown = 0;
      Array.from(table.tBodies[0].rows).forEach(function (row) {
        var text = row.textContent.toLowerCase();
        var kept = words.every(function (word) { return text.includes(word); });
        row.hidden = !kept;
        if (kept) shown += 1;
      });
      count.textContent = words.length ? shown + " shown" : "";
    });
  }

  function makeLive(figure) {
    var source = figure.querySelector("script[type='application/json']");
    var live = figure.querySelector(".live");
    var still = figure.querySelector(".still");
    if (!source || live.childElementCount) return;
    var made = JSON.parse(source.textContent);
    made.layout.autosize = true;
    delete made.layout.width;
    delete made.layout.height;
    live.hidden = false;
    still.style.display = "none";
    window.Plotly.newPlot(live, made.data, made.layout, {
      displaylogo: false, responsive: true,
      modeBarButtonsToRemove: ["select2d", "lasso2d", "autoScale2d"]
    });
  }

  document.addEventListener("DOMContentLoaded", function () {
    document.querySelectorAll("section .table").forEach(function (frame) {
      var table = frame.querySelector("table");
      makeSortable(table);
      makeFilter(frame, table);
    });
    if (!window.Plotly || window.innerWidth < 720) return;
    var figures = document.querySelectorAll("figure");
    if (!("IntersectionObserver" in window)) {
      figures.forEach(makeLive);
      return;
    }
    // As they come into view, so that a long page opens at once.
    var watcher = new IntersectionObserver(function (entries) {
      entries.forEach(function (entry) {
        if (entry.isIntersecting) {
          watcher.unobserve(entry.target);
          makeLive(entry.target);
        }
      });
    }, { rootMargin: "600px" });
    figures.forEach(function (figure) { watcher.observe(figure); });
  });
})();
