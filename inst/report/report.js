// Tables that sort and filter, figures that respond to the pointer. Without
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

  // What a heading says, as a button in it.
  function buttonIn(head) {
    var button = document.createElement("button");
    button.type = "button";
    button.textContent = head.textContent;
    head.textContent = "";
    head.appendChild(button);
    return button;
  }

  function makeSortable(table) {
    Array.from(table.tHead.rows[0].cells).forEach(function (head, column) {
      var button = buttonIn(head);
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

  var drawing = "http://www.w3.org/2000/svg";
  var figures = [];
  var tip;

  function shape(name, attributes, parent) {
    var made = document.createElementNS(drawing, name);
    Object.keys(attributes).forEach(function (key) {
      made.setAttribute(key, attributes[key]);
    });
    return parent.appendChild(made);
  }

  // How far a place in the picture is from a point of a mark; within a box
  // nothing.
  function distance(mark, i, x, y) {
    var across = Math.abs(mark.x[i] - x);
    var up = Math.abs(mark.y[i] - y);
    if (mark.k === "box") {
      across = Math.max(0, across - mark.w[i] / 2);
      up = Math.max(0, up - mark.h[i] / 2);
    }
    return Math.hypot(across, up);
  }

  // The series that a mark is of: the first line that its points tell.
  function nameOf(figure, mark) {
    return figure.told[mark.t[0]].split("\n")[0];
  }

  function makeLive(element) {
    var source = element.querySelector("script[type='application/json']");
    var svg = element.querySelector("svg");
    if (!source || !svg || element.dataset.live) return;
    element.dataset.live = "";
    var figure = JSON.parse(source.textContent);
    figure.svg = svg;
    figure.whole = svg.getAttribute("viewBox");
    figure.over = shape("g", { "class": "over" }, svg);
    figure.lift = shape("g", { "class": "lift" }, svg);
    figure.marks.forEach(function (mark) {
      mark.name = nameOf(figure, mark);
    });
    svg.setAttribute("tabindex", "0");
    svg.addEventListener("pointermove", function (event) {
      var at = placeIn(figure, event);
      if (figure.from) drawPart(figure, at); else pointAt(figure, at);
    });
    svg.addEventListener("pointerleave", function () { tell(figure, null); });
    svg.addEventListener("blur", function () { tell(figure, null); });
    svg.addEventListener("pointerdown", function (event) {
      if (event.pointerType === "mouse") figure.from = placeIn(figure, event);
      else pointAt(figure, placeIn(figure, event));
    });
    svg.addEventListener("pointerup", function (event) {
      if (figure.from) enlarge(figure, placeIn(figure, event));
      figure.from = null;
    });
    svg.addEventListener("dblclick", function () { showWhole(figure); });
    svg.addEventListener("keydown", function (event) { byKey(figure, event); });
    figures.push(figure);
  }

  function placeIn(figure, event) {
    var point = figure.svg.createSVGPoint();
    point.x = event.clientX;
    point.y = event.clientY;
    return point.matrixTransform(figure.svg.getScreenCTM().inverse());
  }

  function pointAt(figure, at) {
    var best = { far: 30 };
    figure.marks.forEach(function (mark) {
      for (var i = 0; i < mark.x.length; i += 1) {
        if (mark.y[i] === null) continue;
        var far = distance(mark, i, at.x, at.y);
        if (far < best.far) best = { mark: mark, i: i, far: far };
      }
    });
    tell(figure, best.mark ? best : null);
  }

  // What a point tells, beside it; nothing where there is none.
  function tell(figure, point) {
    figure.over.textContent = "";
    figure.point = point || figure.point;
    tip.hidden = !point;
    if (!point) return;
    var mark = point.mark;
    var x = mark.x[point.i];
    var y = mark.y[point.i];
    if (mark.k === "box") {
      shape("rect", boxAt(mark, point.i, ""), figure.over);
    } else {
      shape("circle", { cx: x, cy: y, r: 4 }, figure.over);
    }
    tip.textContent = figure.told[mark.t[point.i]];
    var place = figure.svg.createSVGPoint();
    place.x = x;
    place.y = y;
    place = place.matrixTransform(figure.svg.getScreenCTM());
    var room = document.documentElement.clientWidth - tip.offsetWidth - 8;
    var right = place.x + 14;
    if (right > room) right = place.x - tip.offsetWidth - 14;
    tip.style.left = Math.max(8, right) + window.scrollX + "px";
    tip.style.top = place.y + 10 + window.scrollY + "px";
  }

  // Left and right go along a line, up and down from line to line.
  function byKey(figure, event) {
    var step = {
      ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0],
      ArrowDown: [1, 0]
    }[event.key];
    if (event.key === "Escape") showWhole(figure);
    if (!step || !figure.marks.length) return;
    event.preventDefault();
    var point = figure.point || { mark: figure.marks[0], i: -1 };
    var count = figure.marks.length;
    var line = (figure.marks.indexOf(point.mark) + step[0] + count) % count;
    var mark = figure.marks[line];
    var i = Math.min(point.i, mark.x.length - 1) + step[1];
    while (i >= 0 && i < mark.x.length && mark.y[i] === null) {
      i += step[1] || 1;
    }
    if (i >= 0 && i < mark.x.length) tell(figure, { mark: mark, i: i });
  }

  function partOf(figure, at) {
    return {
      x: Math.min(figure.from.x, at.x), y: Math.min(figure.from.y, at.y),
      width: Math.abs(figure.from.x - at.x),
      height: Math.abs(figure.from.y - at.y)
    };
  }

  function drawPart(figure, at) {
    tell(figure, null);
    shape("rect", partOf(figure, at), figure.over);
  }

  function enlarge(figure, at) {
    var part = partOf(figure, at);
    figure.over.textContent = "";
    if (part.width < 12 || part.height < 12) return;
    figure.svg.setAttribute(
      "viewBox", [part.x, part.y, part.width, part.height].join(" ")
    );
  }

  function showWhole(figure) {
    figure.svg.setAttribute("viewBox", figure.whole);
    tell(figure, null);
  }

  // A series before the others, in every figure that has it.
  function lift(figure, name) {
    var own = figure.marks.filter(function (mark) {
      return mark.name === name || mark.name.indexOf(name + ": ") === 0;
    });
    figure.lift.textContent = "";
    figure.svg.classList.toggle("lifted", own.length > 0);
    own.forEach(function (mark) {
      if (mark.k === "line") liftLine(figure, mark);
      else mark.x.forEach(function (x, i) { liftMark(figure, mark, i); });
    });
  }

  function liftLine(figure, mark) {
    var path = "";
    mark.x.forEach(function (x, i) {
      if (mark.y[i] === null) return;
      var goesOn = i > 0 && mark.y[i - 1] !== null;
      path += (goesOn ? "L" : "M") + x + " " + mark.y[i];
    });
    shape("path", { d: path, style: "stroke: " + mark.c }, figure.lift);
  }

  function liftMark(figure, mark, i) {
    if (mark.y[i] === null) return;
    var style = "fill: " + (mark.c && mark.c[i] || "none");
    if (mark.k === "point") {
      shape("circle", {
        cx: mark.x[i], cy: mark.y[i], r: 2, style: style
      }, figure.lift);
    } else {
      shape("rect", boxAt(mark, i, style), figure.lift);
    }
  }

  function boxAt(mark, i, style) {
    return {
      x: mark.x[i] - mark.w[i] / 2, y: mark.y[i] - mark.h[i] / 2,
      width: mark.w[i], height: mark.h[i], style: style
    };
  }

  // Rows of the series; a table that has none of it stays whole.
  function keepRows(table, name) {
    var rows = Array.from(table.tBodies[0].rows);
    var own = rows.filter(function (row) {
      var cells = Array.from(row.cells).map(function (cell) {
        return cell.textContent;
      });
      return cells.includes(name) || name.split(", ").every(function (part) {
        return cells.includes(part);
      });
    });
    rows.forEach(function (row) {
      row.classList.toggle("other", own.length > 0 && !own.includes(row));
    });
  }

  function choose(select, name) {
    select.value = name;
    if (select.value !== name) select.value = name = "";
    figures.forEach(function (figure) { lift(figure, name); });
    document.querySelectorAll("section .table table").forEach(
      function (table) { keepRows(table, name); }
    );
    document.querySelectorAll(".tile").forEach(function (tile) {
      var own = tile.querySelector("h3").dataset.series === name;
      tile.classList.toggle("chosen", own);
    });
  }

  // The address keeps the choice.
  function chosenInAddress() {
    var found = /^#series=(.*)$/.exec(window.location.hash);
    try {
      return found ? decodeURIComponent(found[1]) : null;
    } catch (error) {
      return null;
    }
  }

  // Names that stand beside others in a figure can be chosen.
  function seriesToChoose() {
    var names = [];
    figures.forEach(function (figure) {
      var own = figure.marks.map(function (mark) { return mark.name; });
      own = Array.from(new Set(own));
      if (own.length > 1) names = names.concat(own);
    });
    names = names.filter(function (name) {
      return name && isNaN(numberOf(name)) && !/^\d{4}-/.test(name);
    });
    var often = names.filter(function (name, i) {
      return names.indexOf(name) !== i;
    });
    return Array.from(new Set(often.length ? often : names));
  }

  function makeChoice() {
    var names = seriesToChoose();
    if (names.length < 2) return;
    var label = document.createElement("label");
    var select = document.createElement("select");
    label.className = "choice";
    label.append("Series ", select);
    [""].concat(names).forEach(function (name) {
      select.add(new Option(name || "all", name));
    });
    var main = document.querySelector("main") || document.body;
    main.insertBefore(label, main.firstChild);
    function take(name) {
      window.history.replaceState(
        null, "", "#" + (name && "series=" + encodeURIComponent(name))
      );
      choose(select, name);
    }
    select.addEventListener("change", function () { take(select.value); });
    document.querySelectorAll(".tile h3").forEach(function (head) {
      var name = head.dataset.series;
      if (!names.includes(name)) return;
      buttonIn(head).addEventListener("click", function () {
        take(select.value === name ? "" : name);
      });
    });
    window.addEventListener("hashchange", function () {
      var name = chosenInAddress();
      if (name !== null) choose(select, name);
    });
    var name = chosenInAddress();
    if (name) choose(select, name);
  }

  // Of sections that show the same by unlike periods one is seen at a time.
  function makeLengths() {
    var groups = {};
    document.querySelectorAll("section[data-alike]").forEach(function (part) {
      var first = part.dataset.alike;
      groups[first] = (groups[first] || []).concat(part);
    });
    Object.keys(groups).forEach(function (first) {
      groups[first].forEach(function (own) {
        own.insertBefore(lengthsOf(groups[first], own), own.firstChild);
      });
      showLength(groups[first], groups[first][0]);
    });
    function follow() {
      var id = decodeURIComponent(window.location.hash.slice(1));
      var own = document.getElementById(id);
      if (!own || !own.dataset.alike) return;
      showLength(groups[own.dataset.alike], own);
      own.scrollIntoView();
    }
    window.addEventListener("hashchange", follow);
    follow();
  }

  function lengthsOf(parts, own) {
    var choice = document.createElement("div");
    choice.className = "lengths";
    choice.setAttribute("role", "group");
    choice.setAttribute("aria-label", "Length of period");
    choice.append("By ");
    parts.forEach(function (part) {
      var button = document.createElement("button");
      button.type = "button";
      button.textContent = part.dataset.length;
      button.setAttribute("aria-pressed", part === own);
      button.addEventListener("click", function () {
        showLength(parts, part);
        part.querySelector(".lengths [aria-pressed=true]").focus();
      });
      choice.append(button);
    });
    return choice;
  }

  function showLength(parts, shown) {
    parts.forEach(function (part) {
      part.classList.toggle("away", part !== shown);
    });
  }

  document.addEventListener("DOMContentLoaded", function () {
    tip = document.createElement("div");
    tip.className = "tip";
    tip.hidden = true;
    tip.setAttribute("role", "status");
    document.body.appendChild(tip);
    document.querySelectorAll("section .table").forEach(function (frame) {
      var table = frame.querySelector("table");
      makeSortable(table);
      makeFilter(frame, table);
    });
    document.querySelectorAll("figure").forEach(makeLive);
    makeChoice();
    makeLengths();
  });

  // On paper nothing unfolds: how a finding was worked out is read there, too.
  window.addEventListener("beforeprint", function () {
    document.querySelectorAll("details").forEach(function (part) {
      if (part.querySelector(".said")) part.open = true;
    });
  });
})();
