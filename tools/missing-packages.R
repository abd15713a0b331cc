# Prints the packages of DESCRIPTION, and of the arguments, that are missing or
# older than DESCRIPTION asks; those of Suggests only where the first argument
# is --all.
given <- commandArgs(trailingOnly = TRUE)
fields <- read.dcf(
  "DESCRIPTION",
  fields = c("Imports", "LinkingTo", if ("--all" %in% given) "Suggests")
)
entries <- trimws(unlist(strsplit(fields[!is.na(fields)], ",")))
entries <- c(entries, setdiff(given, "--all"))
name <- sub("\\s*\\(.*", "", entries)
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
