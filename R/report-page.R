# The page: sections with their look and their script, all in one file. It asks
# for nothing, and its policy lets no other script run than the one put in here.

render_html <- function(report, path) {
  script <- whole_text(report_part("report.js"))
  page <- c(
    title = escaped(report$title),
    allowed = sum_of_script(script),
    style = whole_text(report_part("report.css")),
    script = script,
    body = paste(html_of_report(report), collapse = "\n")
  )
  writeLines(
    filled_in(whole_text(report_part("page.html")), page), path,
    useBytes = TRUE
  )
}

report_part <- function(name) {
  system.file("report", name, package = "backfill", mustWork = TRUE)
}

# As a browser sees it, which knows one line end.
whole_text <- function(file) {
  paste(readLines(file, warn = FALSE, encoding = "UTF-8"), collapse = "\n")
}

# By which the page's policy knows a script that it may run.
sum_of_script <- function(text) {
  hex <- cli::hash_sha256(text)
  bytes <- strtoi(substring(hex, seq(1, 63, 2), seq(2, 64, 2)), 16L)
  sprintf("'sha256-%s'", jsonlite::base64_enc(as.raw(bytes)))
}

# A template with each $name$ replaced; what is put in is not looked at again.
filled_in <- function(template, with) {
  found <- gregexpr("\\$[a-z]+\\$", template)
  names <- gsub("$", "", regmatches(template, found)[[1]], fixed = TRUE)
  regmatches(template, found) <- list(unname(with[names]))
  template
}
