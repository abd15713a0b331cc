# Prints the packages of DESCRIPTION, and of the arguments, that are missing or
# older than DESCRIPTION asks; those of Suggests only where they are arguments
# or the first one is --all.
given <- commandArgs(trailingOnly = TRUE)
entries_of <- function(fields) {
  text <- read.dcf("DESCRIPTION", fields = fields)
  trimws(unlist(strsplit(text[!is.na(text)], ",")))
}
name_of <- function(entry) sub("\\s*\\(.*", "", entry)
further <- entries_of("Suggests")
# Only `make test-engines` needs what takes minutes to compile.
compiled <- c("duckdb", "RPostgres")
if ("--all" %in% given) {
  further <- further[!name_of(further) %in% setdiff(compiled, given)]
} else {
  further <- further[name_of(further) %in% given]
}
entries <- c(entries_of(c("Imports", "LinkingTo")), further)
entries <- c(entries, setdiff(given, c("--all", name_of(entries))))
name <- name_of(entries)
least <- ifelse(
  grepl("(", entries, fixed = TRUE), sub(".*>=\\s*([0-9.]+).*", "\\1", entries),
  "0"
)
have <- vapply(name, function(package) {
  at <- system.file("DESCRIPTION", package = package)
  if (nzchar(at)) read.dcf(at, fields = "Version")[[1]] else "0"
}, "")
short <- have == "0" | mapply(utils::compareVersion, have, least) < 0
cat(unique(name[short]))
