# Reports: what they say, that nothing in them runs or is asked of elsewhere,
# and what a reader's browser makes of them.

skip_if_not_installed("yaml")
skip_if_not_installed("htmltools")
skip_if_not_installed("svglite")

hostile <- c(
  "<script>alert(1)</script>", "=cmd()",
  "</script><img src=x onerror=alert(2)>",
  "a & b \"c\" 'd' [e](http://f) *g* `h` | i"
)

# A study of a series for each of the names, with a year's season and one month
# that departs from it.
hostile_study <- function(env = parent.frame()) {
  own_store(env)
  folder <- withr::local_tempdir(.local_envir = env)
  month <- seq(as.Date("2028-01-01"), by = "month", length.out = 48)
  table <- data.frame(
    month = rep(month, 4), quay = rep(hostile, each = 48),
    kilos = rep(1:4, each = 48) * 100 * (2 + sin(2 * pi * (1:48) / 12))
  )
  table$kilos[40] <- 900
  utils::write.csv(table, file.path(folder, "landed.csv"), row.names = FALSE)
  file <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "title: \"Fish <b>&amp; more\"",
    "note: |", "  A first word. <img src=x onerror=alert(3)>", "",
    "  A second.", "records:", "  landed:", "    file: landed.csv",
    "    when: month", "    series: quay", "    measures: {kilos: flow}",
    "steps:", "  - roll_up: {every: month}", "    name: monthly",
    "  - flag_periods: {against: a cycle before, beyond: {percent: 12}}",
    "    note: My own <words>.", "    name: flags",
    "  - add_growth: {over: 1 year}", "    from: monthly", "    name: growth",
    "  - roll_up: {every: quarter}", "    from: landed", "    name: quarterly",
    "report: true"
  ), file)
  file
}

# list(run, page): its run, and the page that this wrote, for tests that read
# them and no more.
hostile_run <- function() {
  if (is.null(hostile_made$run)) {
    out <- file.path(
      withr::local_tempdir(.local_envir = testthat::teardown_env()), "run"
    )
    hostile_made$run <- run_study(hostile_study(), out)
    hostile_made$page <- file.path(out, "report.html")
  }
  hostile_made
}

hostile_made <- new.env(parent = emptyenv())

describe_flags <- function(x) {
  backfill:::describe(x, most = 12, hint = FALSE)
}

pictures_of <- function(html, within = "") {
  xml2::xml_find_all(html, paste0(within, "//figure/*[name()='svg']"))
}

# An interactive figure as text, as a tree, the texts in its picture, and what
# its points tell.
live_parts <- function(plot) {
  source <- as.character(as_interactive(plot))
  html <- xml2::read_html(source, encoding = "UTF-8")
  text <- xml2::xml_find_all(html, "//*[name()='text']")
  points <- jsonlite::fromJSON(
    xml2::xml_text(xml2::xml_find_first(html, "//figure/script")), FALSE
  )
  points$told <- unlist(points$told)
  list(
    source = source, html = html, texts = xml2::xml_text(text), points = points
  )
}

test_that("a page says what was read and found, the weightiest first, and runs nothing", {
  run <- hostile_run()$run
  html <- xml2::read_html(hostile_run()$page)
  text <- function(path) xml2::xml_text(xml2::xml_find_all(html, path))
  expect_identical(text("//h1"), "Fish <b>&amp; more")
  expect_identical(text("//title"), "Fish <b>&amp; more")
  expect_match(text("//p[@class='note']")[[1]], "first word. <img src=x")
  expect_match(text("//p[@class='note']")[[2]], "A second")
  sections <- xml2::xml_attr(xml2::xml_find_all(html, "//section"), "id")
  expect_identical(
    sections,
    c("in-short", "latest-figures", "flags", "growth", "monthly",
      "quarterly", "what-was-read", "method-and-sources")
  )
  # Sentence and table agree with the result.
  flags <- study_result(run, "flags")
  said <- text("//section[@id='flags']//ul[@class='said']/li")
  expect_identical(said, describe_flags(flags))
  note <- text("//section[@id='flags']/p[@class='note']")
  expect_match(note, "My own <words>")
  rows <- xml2::xml_find_all(html, "//section[@id='flags']//tbody/tr")
  expect_length(rows, nrow(flags))
  cells <- vapply(rows, function(row) {
    xml2::xml_text(xml2::xml_find_all(row, "td"))[c(1, 4)]
  }, c("", ""))
  expect_identical(cells[1, ], flags$quay)
  expect_equal(
    as.numeric(gsub(",", "", cells[2, ])), flags$value, tolerance = 1e-3
  )
  expect_length(pictures_of(html, "//section[@id='flags']"), 1)
  tiles <- xml2::xml_find_all(html, "//li[@class='tile']")
  expect_setequal(xml2::xml_text(xml2::xml_find_first(tiles, "h3")), hostile)
  expect_match(xml2::xml_text(tiles[[2]]), "December 2031, complete")
  # Nothing from data is an element, and nothing comes from elsewhere.
  expect_length(xml2::xml_find_all(html, "//*[@onerror]"), 0)
  scripts <- text("//script[not(@type)]")
  expect_false(any(grepl("alert(1)", scripts, fixed = TRUE)))
  places <- xml2::xml_find_all(html, "//@src | //link/@href")
  expect_true(all(grepl("^data:", xml2::xml_text(places))))
  # What is shown by months and by quarters is one thing to choose from.
  alike <- xml2::xml_find_all(html, "//section[@data-alike]")
  expect_identical(xml2::xml_attr(alike, "id"), c("monthly", "quarterly"))
  expect_identical(xml2::xml_attr(alike, "data-alike"), rep("monthly", 2))
  expect_identical(xml2::xml_attr(alike, "data-length"), c("month", "quarter"))
  # For those who do not see it a figure has its sentences.
  alt <- xml2::xml_attr(pictures_of(html), "aria-label")
  expect_match(alt[[1]], said[[2]], fixed = TRUE)
})

test_that("the same input gives the same page, and a list of results gives one too", {
  nights <- inns()
  monthly <- roll_up(nights, "month")
  found <- list(
    nights = nights, monthly = monthly, season = seasonal_index(monthly),
    wide = widen(monthly)
  )
  folder <- withr::local_tempdir()
  pages <- file.path(folder, c("a.html", "b.html"))
  for (page in pages) write_report(found, page, title = "Nights")
  sums <- unname(tools::md5sum(pages))
  expect_identical(sums[[1]], sums[[2]])
  expect_lt(file.size(pages[[1]]), 5e5)
  html <- xml2::read_html(pages[[1]])
  ids <- xml2::xml_attr(xml2::xml_find_all(html, "//section"), "id")
  expect_setequal(ids, c(
    "what-was-read", "latest-figures", "in-short", "monthly", "season",
    "wide", "method-and-sources"
  ))
  for (bad in list(monthly, list(1), list(a = 1), list(), "x")) {
    expect_error(
      write_report(bad, pages[[1]]), "neither", class = "backfill_error_input"
    )
  }
  expect_error(
    write_report(found, file.path(folder, "a.docx")), "none of .html",
    class = "backfill_error_file"
  )
  expect_error(
    write_report(found, demo_file("inns.csv")), class = "backfill_error_file"
  )
  expect_error(
    write_report(found, pages[[1]], title = 3), "must be text",
    class = "backfill_error_argument"
  )
})

test_that("a page begins with findings in words that a colleague knows", {
  nights <- inns()
  monthly <- roll_up(nights, "month")
  weekly <- roll_up(read_records(
    demo_file("crossings.csv"), "time", c(tide = "flow"), zone = "WET"
  ), "week")
  page <- withr::local_tempfile(fileext = ".html")
  found <- list(
    nights = nights, growth = add_growth(monthly, "1 year"),
    flags = flag_periods(monthly, "a cycle before", c(percent = 15)),
    none = flag_periods(monthly, "a cycle before", c(percent = 99)),
    season = seasonal_index(monthly), trend = trend_line(monthly, of = "value"),
    ahead = project(monthly, 3), falls = rank_changes(monthly, order = "falls"),
    weeks = add_moving(weekly, 13), bare = roll_up(nights, "quarter")
  )
  write_report(found, page)
  html <- xml2::read_html(page)
  text <- function(path) xml2::xml_text(xml2::xml_find_all(html, path))
  said <- text("//section[@id='in-short']//li")
  expect_length(said, 7)
  expect_identical(said[[1]], paste(
    "In April 2031 guest nights of Wherry stood at 917, which is 251 (21.5%)",
    "below the 1,168 to be expected from its past. 11 of 125 months judged are",
    "flagged."
  ))
  whole <- paste(said, collapse = "\n")
  for (one in c(
    "to November 2031: Hearth grew by 7.3% and Wherry by 5.8%; Anchor fell by",
    "Guest nights of Lantern fell most, by 56.5% from December 2029 to",
    "Trailing mean of tide over 13 weeks in week 50 of 2031: 5,732",
    "Lantern: August runs 105% above an average month, January 70% below. A",
    "found in 3 of 4 series.",
    "mean a year (p < 0.001). No trend was found in Hearth, Lantern or",
    "Projected for December 2031, with 95% intervals: Anchor 864.1 (762.5 to"
  )) {
    expect_true(grepl(one, whole, fixed = TRUE), label = one)
  }
  expect_no_match(said, "_|`|[0-9]{4}-[0-9WQ]")
  # What has no room is named, and all of it is on the page.
  expect_length(
    xml2::xml_find_all(html, "//section[@id='in-short']//a"), 9
  )
  expect_match(text("//p[@class='read']"), "Read: 180 rows of 1 source; 3 set")
  # A series that is named like a period keeps its name.
  odd <- as_records(data.frame(
    day = as.Date("2030-01-01") + 0:399, site = "2030-01", sold = 1:400
  ), "day", c(sold = "flow"), series = "site")
  write_report(list(grown = add_growth(roll_up(odd, "month"))), page)
  html <- xml2::read_html(page)
  expect_match(text("//section[@id='in-short']//li"), "2031-01: 2030-01 ")
})

test_that("Markdown has the sentences, tables and pictures, and PDF all pages", {
  run <- hostile_run()$run
  folder <- withr::local_tempdir()
  page <- file.path(folder, "fish.md")
  write_report(run, page)
  text <- readLines(page, encoding = "UTF-8")
  expect_match(text[[1]], "# Fish \\<b\\>\\&amp; more", fixed = TRUE)
  pictures <- regmatches(text, regexpr("fish-figures/[^)\"]+[.]png", text))
  expect_length(pictures, 4)
  expect_true(all(file.size(file.path(folder, pictures)) > 1000))
  expect_false(any(grepl("(^|[^\\\\])<(script|img src=x)", text)))
  skip_if_not_installed("rmarkdown")
  skip_if(!rmarkdown::pandoc_available("2.0"), "pandoc is not installed")
  back <- system2(
    rmarkdown::find_pandoc()$dir |> file.path("pandoc"),
    c("-f", "gfm", "-t", "plain", "--wrap=none", shQuote(page)), stdout = TRUE
  )
  # A folder that is somebody's stays as it is.
  writeLines("mine", file.path(folder, "fish-figures", "notes.txt"))
  before <- tools::md5sum(list.files(
    folder, recursive = TRUE, full.names = TRUE
  ))
  expect_error(write_report(run, page), class = "backfill_error_file")
  expect_identical(tools::md5sum(names(before)), before)
  flags <- study_result(run, "flags")
  for (said in describe_flags(flags)) {
    expect_true(any(grepl(said, back, fixed = TRUE)), label = said)
  }
  skip_if(!nzchar(Sys.which("chromium")), "chromium is not installed")
  pdf <- file.path(folder, "fish.pdf")
  write_report(run, pdf)
  bytes <- readBin(pdf, "raw", file.size(pdf))
  expect_identical(rawToChar(bytes[1:5]), "%PDF-")
  pages <- length(grepRaw("/Type /Page\n", bytes, fixed = TRUE, all = TRUE))
  expect_gte(pages, 4)
})

# Names, notes, titles, units and cells that would leave their place.
breakouts <- function(port) {
  c(
    "a\n```\n![x](../secret.txt)\n<img src='../secret.txt'>\n\n",
    "</p><script>document.title='run'</script>",
    sprintf("```{=html}\n<img src=\"http://127.0.0.1:%d/a.png\">", port),
    sprintf(
      "b ![x](http://127.0.0.1:%d/b.png) <http://127.0.0.1:%d>", port, port
    ),
    "\" onmouseover=\"document.title='run'", "`` ` `` </table></section>",
    "-->\u202e<!-- c", "--- \n\n# d\n| e | f |"
  )
}

test_that("nothing from data or a study leaves its place in a page", {
  skip_if_not_installed("yaml")
  port <- 20000L + Sys.getpid() %% 20000L
  listening <- serverSocket(port)
  withr::defer(close(listening))
  withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
  folder <- withr::local_tempdir()
  dir.create(file.path(folder, "study"))
  writeLines("the-secret-word", file.path(folder, "secret.txt"))
  odd <- breakouts(port)
  month <- seq(as.Date("2028-01-01"), by = "month", length.out = 30)
  table <- data.frame(
    month = c(as.character(rep(month, length(odd))), odd),
    quay = c(rep(odd, each = 30), odd),
    kilos = 100 + seq_len(31 * length(odd)) %% 7
  )
  utils::write.csv(
    table, file.path(folder, "study", "landed.csv"), row.names = FALSE
  )
  file <- file.path(folder, "study", "study.yaml")
  asked <- list(
    backfill = 1L, title = odd[[5]], note = paste(odd, collapse = "\n\n"),
    records = list(landed = list(
      file = "landed.csv", when = "month", series = "quay",
      measures = list(kilos = list(kind = "flow", unit = odd[[3]]))
    )),
    steps = list(
      list(roll_up = list(every = "month"), name = "monthly", note = odd[[1]]),
      list(flag_periods = list(against = "a cycle before"), name = "flags",
           note = odd[[3]])
    ),
    report = list(formats = c("html", "md"))
  )
  writeLines(yaml::as.yaml(asked), file)
  out <- file.path(folder, "run")
  run <- run_study(file, out)
  names <- unique(study_result(run, "monthly")$quay)
  expect_length(names, length(odd))
  expect_false(any(grepl("[\r\n]", names)))
  expect_match(
    account(study_result(run, "landed"))$notes, "written as .n", all = FALSE
  )
  text <- paste(readLines(file.path(out, "report.html")), collapse = "\n")
  html <- xml2::read_html(file.path(out, "report.html"))
  expect_false(grepl("the-secret-word", text, fixed = TRUE))
  expect_false(grepl("\u202e", text, fixed = TRUE))
  expect_length(xml2::xml_find_all(html, "//@onmouseover"), 0)
  expect_length(xml2::xml_find_all(html, "//section"), 6)
  # One script is ours, the others are figures as data.
  ours <- xml2::xml_find_all(html, "//script[not(@type)]")
  expect_length(ours, 1)
  policy <- xml2::xml_attr(
    xml2::xml_find_first(html, "//meta[@http-equiv]"), "content"
  )
  expect_no_match(policy, "script-src[^;]*unsafe")
  places <- xml2::xml_text(xml2::xml_find_all(html, "//@src | //@href"))
  expect_true(all(grepl("^(data:|#)", places)))
  rows <- xml2::xml_find_all(html, "//section[@id='monthly']//tbody/tr")
  expect_length(rows, 30 * length(odd))
  # As Markdown it has no raw HTML, link, image or title that is not ours.
  lines <- readLines(file.path(out, "report.md"), encoding = "UTF-8")
  code <- cumsum(grepl("^```", lines)) %% 2 == 1 | grepl("^```", lines)
  plain <- gsub("\\\\.", "", gsub("`[^`]*`", "", lines[!code]))
  expect_no_match(plain, "<|\\[[^]]*\\]\\((?!report-figures)|://", perl = TRUE)
  expect_length(grep("^#", lines[!code]), 5)
  expect_false(any(socketSelect(list(listening), timeout = 0)))
  driver <- file.path(checkout("tests"), "browser", "look-at-report.mjs")
  skip_if(!dir.exists(file.path(dirname(driver), "node_modules", "axe-core")))
  skip_if(!nzchar(Sys.which("chromium")), "chromium is not installed")
  ran <- processx::run(
    "node", c(driver, file.path(out, "report.html"), "--opened"),
    error_on_status = FALSE, timeout = 180,
    env = c("current", BACKFILL_BROWSER = unname(Sys.which("chromium")))
  )
  expect_identical(ran$status, 0L, label = ran$stderr)
  seen <- jsonlite::fromJSON(ran$stdout, simplifyVector = FALSE)
  expect_length(seen$errors, 0)
  expect_length(seen$requests, 0)
  expect_identical(seen$title, odd[[5]])
  expect_false(any(socketSelect(list(listening), timeout = 0)))
})

test_that("a note keeps paragraphs, lists and code", {
  note <- paste(
    "One *line*\nand `x < 1`", "- a\n- b\n  more", "1. c\n2. d",
    "```\n# e\n  <b>\n```", sep = "\n\n"
  )
  expect_identical(backfill:::html_of_note(note), c(
    "<p class=\"note\">One *line* and <code>x &lt; 1</code></p>",
    "<ul class=\"note\"><li>a</li><li>b more</li></ul>",
    "<ol class=\"note\"><li>c</li><li>d</li></ol>",
    "<pre tabindex=\"0\"><code># e\n  &lt;b&gt;</code></pre>"
  ))
  expect_identical(backfill:::markdown_of_note(note), c(
    "One \\*line\\* and `x < 1`", "", "* a", "* b more", "", "1. c", "2. d", "",
    "```", "# e", "  <b>", "```", ""
  ))
  expect_null(backfill:::html_of_note(NULL))
})

test_that("a document of one's own takes sections", {
  skip_if_not_installed("rmarkdown")
  skip_if(!rmarkdown::pandoc_available("2.0"), "pandoc is not installed")
  folder <- withr::local_tempdir()
  source <- file.path(folder, "own.Rmd")
  writeLines(c(
    "---", "title: Own", "---", "", "```{r, echo = FALSE}", "library(backfill)",
    "monthly <- roll_up(read_records(demo_file(\"inns.csv\"), \"month\",",
    "  c(guest_nights = \"flow\"), series = \"inn\"), \"month\")",
    "report_section(flag_periods(monthly), note = \"Look here.\")",
    "report_section(monthly, title = \"Nights\", figures = list())", "```"
  ), source)
  for (format in c("html_document", "md_document")) {
    made <- rmarkdown::render(
      source, format, quiet = TRUE, envir = new.env(), output_dir = folder
    )
    text <- readLines(made, warn = FALSE)
    for (said in c("Look here", "Wherry", "Nights")) {
      expect_true(any(grepl(said, text, fixed = TRUE)), label = said)
    }
  }
  section <- report_section(roll_up(inns(), "month"), title = "Nights")
  expect_output(print(section), "46 months from 2028-02")
  expect_error(report_section(1:3), class = "backfill_error_input")
})

test_that("a run writes the report that its study asks for", {
  file <- hostile_study()
  out <- file.path(dirname(file), "run")
  run_study(file, out)
  expect_true(file.exists(file.path(out, "report.html")))
  first <- tools::md5sum(file.path(out, "report.html"))
  run_study(file, out, fresh = TRUE)
  expect_identical(tools::md5sum(file.path(out, "report.html")), first)
  lines <- readLines(file)
  at <- grep("^report", lines)
  writeLines(replace(
    lines, at, "report: {formats: md, sections: [growth, flags]}"
  ), file)
  run_study(file, out)
  text <- readLines(file.path(out, "report.md"))
  expect_false(file.exists(file.path(out, "report.html")))
  expect_identical(
    grep("^[*](Growth|Kilos)", text, value = TRUE),
    c("*Growth of kilos over 1 year*",
      "*Kilos, and what departs from its past*")
  )
  for (bad in c(
    "report: {formats: [htlm]}", "report: {sections: [flgas]}", "report: 3",
    "report: {form: html}"
  )) {
    writeLines(replace(lines, at, bad), file)
    expect_error(
      read_study(file), "line 25: (There is no|\"report\" must be)",
      class = "backfill_error_study", label = bad
    )
  }
})

test_that("backfill report writes the page of a study, or says why not", {
  file <- hostile_study()
  folder <- dirname(file)
  ran <- backfill_cli("report", "study.yaml", dir = folder)
  expect_identical(ran$status, 0L, label = paste(ran$err, collapse = " "))
  expect_match(ran$err, "Written: study.html", all = FALSE)
  expect_true(file.exists(file.path(folder, "study.html")))
  for (args in list(
    c("study.yaml", "--out", "landed.csv"), c("none.yaml"),
    c("study.yaml", "--out", "no/where.html"), c("study.yaml", "--form", "x"),
    character()
  )) {
    ran <- backfill_cli("report", args, dir = folder)
    expect_identical(ran$status, 2L, label = toString(args))
    expect_identical(ran$out, character())
  }
})

test_that("an interactive figure keeps what the still one says, and a page says its title once", {
  flags <- flag_periods(roll_up(inns(), "month"), "a cycle before",
                        c(percent = 15))
  plot <- autoplot(flags)
  live <- live_parts(plot)
  for (said in c(plot$labels$title, "Dashed: the baseline",
                 plot$labels$caption, "Anchor", "Wherry", "2030-01 +19%")) {
    expect_true(any(grepl(said, live$texts, fixed = TRUE)), label = said)
  }
  # Each point tells its own figures.
  hearth <- flags[flags$inn == "Hearth", ]
  at <- which(hearth$flag %in% TRUE)[[1]]
  expect_equal(hearth$value[[at]], 5585)
  expect_true(paste0(
    "Hearth\nJanuary 2030\nvalue: 5,585\nbaseline: 4,700\nlower: 3,995\n",
    "upper: 5,405\nflagged"
  ) %in% live$points$told)
  expect_error(as_interactive(1), class = "backfill_error_input")
  # A figure of one's own needs no title, and tells what its axes have.
  known <- hearth[!is.na(hearth$value), ]
  own <- ggplot2::ggplot(known, ggplot2::aes(.data$period, .data$value)) +
    ggplot2::geom_point()
  expect_true("2030-01\n5,585" %in% live_parts(own)$points$told)
  page <- withr::local_tempfile(fileext = ".html")
  months <- roll_up(inns(), "month")
  write_report(list(months = months), page)
  html <- xml2::read_html(page)
  said <- xml2::xml_text(xml2::xml_find_all(html, "//h2 | //*[name()='text']"))
  expect_identical(sum(said == autoplot(months)$labels$title), 1L)
})

test_that("names from data are text in an interactive figure", {
  days <- as.Date("2030-01-01") + 0:99
  named <- c("<b>x</b>", "</script><a href='http://f'>y`</a>\u202e")
  withr::local_seed(4)
  daily <- roll_up(as_records(
    data.frame(day = rep(days, 2), quay = rep(named, each = 100),
               kilos = 5 + rnorm(200)),
    "day", c(kilos = "level"), series = "quay"
  ), "day")
  for (plot in list(
    autoplot(flag_periods(daily, "previous period")), autoplot(daily),
    autoplot(autocorrelation(daily)), autoplot(correlations(daily))
  )) {
    live <- live_parts(plot)
    expect_length(xml2::xml_find_all(live$html, "//b | //a"), 0)
    expect_no_match(live$source, "\u202e|`")
    expect_true(any(grepl("<b>x</b>", live$texts, fixed = TRUE)))
    expect_true(any(startsWith(live$points$told, "<b>x</b>\n")))
  }
})

test_that("tiles tell the change whatever else the table has, or that there is none", {
  grown <- add_growth(add_growth(roll_up(inns(), "month")), "1 year")
  page <- withr::local_tempfile(fileext = ".html")
  write_report(list(method = grown), page)
  html <- xml2::read_html(page)
  ids <- xml2::xml_attr(xml2::xml_find_all(html, "//section"), "id")
  expect_identical(anyDuplicated(ids), 0L)
  tiles <- xml2::xml_text(xml2::xml_find_all(html, "//li[@class='tile']"))
  last <- grown[grown$period == max(grown$period), ]
  expect_match(tiles[[2]], sprintf(
    "[+]%.1f%% on the month before", last$growth_1_month[[2]]
  ))
  expect_match(tiles[[2]], sprintf(
    "[+]%.1f%% on a year before", last$growth_1_year[[2]]
  ))
  one <- as_records(
    data.frame(day = as.Date("2030-01-05"), sold = 3), "day", c(sold = "flow")
  )
  write_report(list(sold = roll_up(one, "month")), page)
  html <- xml2::read_html(page)
  expect_match(
    xml2::xml_text(xml2::xml_find_first(html, "//*[@id='latest-figures']")),
    "No series has a whole period yet"
  )
})

# Places in the text of a picture that are drawn to: corners of lines, centres
# of points and of boxes.
drawn_places <- function(html) {
  of <- function(name) {
    xml2::xml_find_all(html, sprintf("//*[name()='svg']//*[name()='%s']", name))
  }
  number <- function(nodes, ...) {
    lapply(c(...), function(key) {
      as.numeric(sub("%$", "", xml2::xml_attr(nodes, key)))
    })
  }
  corners <- function(nodes) {
    lapply(
      strsplit(trimws(xml2::xml_attr(nodes, "points")), "[ ,]+"),
      function(text) matrix(as.numeric(text), ncol = 2, byrow = TRUE)
    )
  }
  middle <- function(corners) colMeans(apply(corners, 2, range))
  dots <- number(of("circle"), "cx", "cy")
  boxes <- number(of("rect"), "x", "y", "width", "height")
  rbind(
    do.call(rbind, corners(of("polyline"))), do.call(cbind, dots),
    do.call(rbind, lapply(corners(of("polygon")), middle)),
    cbind(boxes[[1]] + boxes[[3]] / 2, boxes[[2]] + boxes[[4]] / 2)
  )
}

test_that("every figure becomes an interactive one, whose points lie where they are drawn", {
  monthly <- roll_up(inns(), "month")
  grown <- add_growth(add_moving(monthly, 12), "1 year")
  index <- seasonal_index(monthly)
  plots <- list(
    autoplot(monthly), autoplot(grown), autoplot(grown, of = "growth_1_year"),
    autoplot(monthly, type = "years"), autoplot(monthly, type = "distribution"),
    autoplot(monthly, panels = "series"), autoplot(index),
    autoplot(index, type = "ratios"), autoplot(index, type = "positions"),
    autoplot(project(monthly, 6)), autoplot(autocorrelation(monthly)),
    autoplot(correlations(monthly)), autoplot(cycle_profile(inns(), "month")),
    autoplot(cycle_grid(inns(), "month", "year")),
    autoplot(trend_line(monthly, of = "value")),
    autoplot(flag_periods(monthly)), autoplot(level_shifts(monthly)),
    autoplot(series_summary(monthly, "quarter")),
    autoplot(monthly, log = TRUE), autoplot(rank_series(monthly))
  )
  for (plot in plots) {
    live <- live_parts(plot)
    title <- plot$labels$title
    expect_gt(length(live$points$marks), 0, label = title)
    drawn <- drawn_places(live$html)
    drawn <- drawn[stats::complete.cases(drawn), ]
    across <- drawn[, 1]
    up <- drawn[, 2]
    for (mark in live$points$marks) {
      there <- !vapply(mark$y, is.null, NA)
      if (mark$k == "line") {
        # A point between two that are missing is none of a line.
        n <- length(there)
        there <- there & (c(FALSE, there[-n]) | c(there[-1], FALSE))
      }
      far <- vapply(which(there), function(i) {
        min(pmax(abs(across - mark$x[[i]]), abs(up - mark$y[[i]])))
      }, 0)
      # Half of a unit that an eye does not see, by rounding twice.
      expect_true(all(far <= 0.12), label = paste(title, mark$k))
      expect_true(all(unlist(mark$t) < length(live$points$told)))
    }
  }
})

test_that("points of a figure of hours tell the clock of their zone, and those of a log axis their figures", {
  hourly <- roll_up(keep_dates(
    read_records(demo_file("crossings.csv"), "time", c(tide = "flow"),
                 zone = "WET"),
    from = "2030-07-01", to = "2030-07-03"
  ), "hour")
  noon <- as.POSIXct("2030-07-02 12:00", tz = "WET")
  live <- live_parts(autoplot(
    hourly, events = data.frame(date = noon, note = "noon")
  ))
  expect_true("noon" %in% live$texts)
  # Of three years of hours those that stand out are told.
  whole <- roll_up(read_records(
    demo_file("crossings.csv"), "time", c(tide = "flow"), zone = "WET"
  ), "hour")
  long <- live_parts(autoplot(whole))
  expect_lte(length(long$points$told), 12000)
  highest <- sprintf("\nvalue: %d\n", max(whole$value, na.rm = TRUE))
  expect_true(any(grepl(highest, long$points$told, fixed = TRUE)))
  row <- hourly[hourly$period == noon, ]
  expect_match(live$points$told, sprintf(
    "\n2030-07-02T12:00[+]01:00\nvalue: %s\n", format(row$value)
  ), all = FALSE)
  monthly <- roll_up(inns(), "month")
  expect_setequal(
    live_parts(autoplot(monthly, log = TRUE))$points$told,
    live_parts(autoplot(monthly))$points$told
  )
})

test_that("a browser shows all of it, by pointer, keyboard, in the dark, on paper and without scripts", {
  folder <- file.path(checkout("tests"), "browser")
  driver <- file.path(folder, "look-at-report.mjs")
  skip_if(!file.exists(driver), "not in a checkout")
  skip_if(!dir.exists(file.path(folder, "node_modules", "axe-core")),
          "what drives the browser is not installed (make setup-all)")
  browser <- Sys.which("chromium")
  skip_if(!nzchar(browser), "chromium is not installed")
  run <- hostile_run()$run
  ran <- processx::run(
    "node", c(driver, hostile_run()$page), error_on_status = FALSE,
    timeout = 180,
    env = c("current", BACKFILL_BROWSER = unname(browser))
  )
  expect_identical(ran$status, 0L, label = ran$stderr)
  seen <- jsonlite::fromJSON(
    ran$stdout, simplifyDataFrame = FALSE, simplifyMatrix = FALSE
  )
  for (none in c("errors", "requests", "violations", "darkViolations")) {
    expect_length(seen[[none]], 0)
  }
  # The pointer is told what the table has.
  flags <- study_result(run, "flags")
  first <- flags$quay[[1]]
  expect_match(first, "<", fixed = TRUE)
  expect_true(startsWith(seen$hover, first))
  told <- as.numeric(gsub(",", "", sub(".*value: ([0-9,.]+)\nbase.*", "\\1",
                                       seen$hover)))
  month <- sub(".*\n([A-Z][a-z]+ 20[0-9]{2})\nvalue.*", "\\1", seen$hover)
  row <- flags[flags$quay == first & paste(
    month.name[as.POSIXlt(flags$period)$mon + 1], format(flags$period, "%Y")
  ) == month, ]
  expect_equal(told, row$value, tolerance = 1e-3)
  # Sorting and filtering.
  figures <- function(text) as.numeric(gsub(",", "", text))
  up <- figures(seen$ascending)
  expect_identical(up, sort(up))
  expect_identical(figures(seen$descending), sort(up, decreasing = TRUE))
  expect_length(up, nrow(flags))
  expect_identical(seen$state, "ascending")
  expect_length(seen$filtered, 48)
  expect_true(all(vapply(seen$filtered, `[[`, "", 1) == first))
  expect_identical(seen$dark, "rgb(21, 25, 26)")
  expect_true(seen$printed)
  expect_true(seen$stillShown)
  # Keys go on to the next point and back from what was enlarged; a choice
  # lifts the series out of every figure and table.
  expect_true(startsWith(seen$next_point, first))
  expect_false(identical(seen$next_point, seen$hover))
  expect_false(identical(seen$enlarged, seen$whole))
  expect_identical(seen$whole_again, seen$whole)
  expect_setequal(unlist(seen$choices), c("all", hostile))
  expect_identical(seen$lifted, seen$figures)
  expect_true(seen$chosen %in% hostile)
  expect_true(all(vapply(seen$chosen_rows, `[[`, "", 1) == seen$chosen))
  expect_length(seen$chosen_rows, 48)
  expect_identical(
    utils::URLdecode(seen$address), paste0("#series=", seen$chosen)
  )
  expect_identical(seen$reopened, seen$chosen)
  # Of months and quarters one is seen, by choice or where a link leads.
  expect_identical(unlist(seen$lengths), c("monthly", "quarterly", "monthly"))
  expect_lte(seen$phoneWidth, 390)
})

test_that("records that are read in chunks are accounted for in runs and reports", {
  file <- hostile_study()
  lines <- readLines(file)
  writeLines(
    append(lines, "    chunked: true", grep("series: quay", lines)), file
  )
  out <- file.path(dirname(file), "run")
  run <- run_study(file, out)
  expect_identical(run$rows[[1]], 192L)
  html <- xml2::read_html(file.path(out, "report.html"))
  said <- xml2::xml_text(
    xml2::xml_find_all(html, "//section[@id='what-was-read']//li")
  )
  expect_match(said[[1]], "192 rows read, 192 used")
  again <- file.path(dirname(file), "again")
  run_study(file, again)
  expect_output(
    print(run_changes(out, again)),
    "Nothing that is compared changed.*not in memory are not compared"
  )
})

test_that("findings stand in the run, in findings.txt, in a shell and on the page alike", {
  folder <- withr::local_tempdir()
  file <- file.path(folder, "inns.csv")
  file.copy(demo_file("inns.csv"), file)
  ran <- backfill_cli("report", file, "--measure", "guest_nights:flow")
  shell <- gsub("\\s+", " ", paste(ran$err, collapse = " "))
  page <- xml2::read_html(file.path(folder, "inns.html"))
  found <- xml2::xml_text(
    xml2::xml_find_all(page, "//section[@id='in-short']//li")
  )
  expect_length(found, 5)
  # A section's heading is the first sentence of its finding.
  headings <- xml2::xml_text(xml2::xml_find_all(page, "//section/h2"))
  expect_true(all(vapply(found, function(one) {
    any(startsWith(one, headings))
  }, NA)))
  expect_match(shell, paste(
    "growth: Guest nights over the year to November 2031: Hearth grew by 7.3%"
  ))
  run <- suppressMessages(first_look(file, measures = c(guest_nights = "flow")))
  out <- file.path(folder, "out")
  study <- file.path(folder, "look.yaml")
  writeLines(study_draft(file, measures = c(guest_nights = "flow")), study)
  again <- run_study(study, out)
  expect_identical(again$finding[-1], run$finding[-1])
  text <- readLines(file.path(out, "findings.txt"))
  for (one in found) {
    expect_true(grepl(one, shell, fixed = TRUE), label = one)
    expect_true(any(grepl(one, text, fixed = TRUE)), label = one)
    expect_true(one %in% run$finding, label = one)
  }
})

test_that("findings are a table, weightiest first, whose sentences are those of the page", {
  monthly <- roll_up(inns(), "month")
  flags <- flag_periods(monthly, "last periods", c(sd = 2))
  found <- findings(flags)
  flagged <- summary(flags)
  expect_identical(nrow(found), nrow(flagged))
  expect_setequal(found$size, flagged$deviation)
  expect_true(all(diff(found$weight) <= 0))
  latest <- found$period == "2031-11"
  score <- abs(flagged$score[match(found$size, flagged$deviation)])
  p <- 2 * stats::pnorm(-score)
  expect_equal(found$weight, pmin(10, -log10(p)) + (latest & p < 0.05))
  expect_true(startsWith(
    backfill:::finding_of(flags),
    found$statement[found$size == flagged$deviation[[1]]]
  ))
  index <- seasonal_index(monthly)
  found <- findings(index)
  expect_setequal(found$subject, c("Hearth", "Lantern", "Wherry"))
  tests <- summary(index)
  expect_equal(found$size, (tests$highest - tests$lowest)[
    match(found$subject, tests$inn)
  ])
  # What was sought and not found is said, at the end.
  study <- suppressMessages(first_look(
    demo_file("inns.csv"), measures = c(guest_nights = "flow")
  ))
  of_run <- findings(study)
  expect_identical(class(of_run)[[1]], "backfill_findings")
  sought <- setdiff(study$name[-1], of_run$result)
  expect_identical(sought, character())
  expect_gt(
    min(which(of_run$result == "gaps")), max(which(of_run$result == "season"))
  )
  expect_match(of_run$statement[of_run$result == "gaps"], "^4 gaps of 8 months")
  grown <- of_run[of_run$result == "growth", ]
  expect_setequal(grown$subject, c("Anchor", "Hearth", "Lantern", "Wherry"))
  expect_match(grown$certainty, "times the spread of the past")
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(of_run, file)
  expect_identical(as.data.frame(read_periods(file)), as.data.frame(of_run))
  expect_error(findings(inns()), "not a result", class = "backfill_error_input")
  expect_error(findings(3), class = "backfill_error_input")
})

test_that("growth is said as a sentence, of a few series, of many and of none", {
  month <- seq(as.Date("2030-01-01"), by = "month", length.out = 13)
  said_of <- function(last, series = letters[seq_along(last)], ...) {
    values <- unlist(lapply(last, function(x) c(rep(100, 12), x)))
    data <- data.frame(
      month = rep(month, length(last)), quay = rep(series, each = 13),
      kilos_sold = values
    )
    x <- roll_up(as_records(
      data, "month", c(kilos_sold = "flow"),
      series = if (length(last) > 1) "quay"
    ), "month")
    backfill:::finding_of(add_growth(x, over = "1 year", ...))
  }
  expect_identical(said_of(107), paste(
    "Kilos sold grew by 7.0% over the year to January 2031."
  ))
  expect_identical(said_of(c(107, 100, 95, 112)), paste(
    "Kilos sold over the year to January 2031: d grew by 12.0% and a by 7.0%;",
    "b did not change; c fell by 5.0%."
  ))
  expect_identical(said_of(c(107, 100, 95, 112, 90)), paste(
    "Kilos sold over the year to January 2031: 2 of 5 series grew; changes run",
    "from -10.0% (e) to +12.0% (d)."
  ))
  expect_identical(said_of(c(107, 95), as = "difference"), paste(
    "Difference of kilos sold over 1 year in January 2031: a 7 and b -5."
  ))
  expect_match(
    said_of(c(107, 95), forward = TRUE),
    "^Growth of kilos sold over 1 year ahead in January 2030: a [+]7.0%"
  )
})

test_that("names are put in words whole, whatever is in them", {
  put <- backfill:::name_replaced
  expect_identical(
    put("kilos of a: total kilos, kilos_b 3, kilos.", "kilos", "kilos sold"),
    "kilos sold of a: total kilos sold, kilos_b 3, kilos sold."
  )
  expect_identical(put("a\\Eb rose", "a\\Eb", "$1 \\1 (x)"), "$1 \\1 (x) rose")
  hours <- roll_up(crossings(), "hour")
  expect_identical(
    backfill:::plain_words(c(
      "At 2031-04-09T14:00+01:00 it fell.", "From 2031-12-01T07:30 on."
    ), hours),
    c("At 14:00 on 9 April 2031 it fell.", "From 07:30 on 1 December 2031 on.")
  )
})
