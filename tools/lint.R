# Lists what does not follow the style, and fails where there is anything.
found <- c(
  lintr::lint_package(), lintr::lint_dir("tools"), lintr::lint_dir("data-raw"),
  lintr::lint_dir("bench"), lintr::lint("exec/backfill")
)
# A row of a table in the help, and a text alone, cannot be broken.
whole <- vapply(found, function(lint) {
  lint$linter == "line_length_linter" &&
    grepl("^#' [|]|^ *\"[^\"]*\"[,)]*$|^test_that\\(\"", lint$line)
}, NA)
found <- found[!whole]
if (length(found) > 0) {
  for (lint in found) {
    cat(sprintf(
      "%s:%d: %s\n", lint$filename, lint$line_number, lint$message
    ))
  }
  quit(save = "no", status = 1)
}
cat("No lints.\n")

# British English, but for the names and terms in inst/WORDLIST.
odd <- spelling::spell_check_package(".")
pages <- spelling::spell_check_files(
  Sys.glob("docs/*.md"), ignore = readLines("inst/WORDLIST"), lang = "en_GB"
)
if (nrow(odd) + nrow(pages) > 0) {
  print(rbind(odd, pages))
  quit(save = "no", status = 1)
}
cat("No misspelling.\n")
