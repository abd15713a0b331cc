# Plants small faults in the code, one at a time, and says which of them the
# tests do not find: tools/mutate.R [COUNT [SEED]]. Each fault is built into a
# library of its own, and the tests run until the first that fails, those first
# whose files are named after the file of the fault. A fault that nobody could
# notice (a faster way that is not taken, say) counts as one that was not found.

asked <- as.numeric(commandArgs(trailingOnly = TRUE))
count <- if (length(asked) > 0) asked[[1]] else 60
seed <- if (length(asked) > 1) asked[[2]] else 1

# What stands in the code, as a pattern, and what is put there.
faults_in_r <- list(
  "(?<= )<(?= )" = "<=", "(?<= )<=(?= )" = "<", "(?<= )>(?= )" = ">=",
  "(?<= )>=(?= )" = ">", "(?<= )==(?= )" = "!=", "(?<= )!=(?= )" = "==",
  "(?<= )&&(?= )" = "||", "(?<= )\\|\\|(?= )" = "&&", "(?<= )&(?= )" = "|",
  "(?<= )\\|(?= )" = "&", "(?<= )\\+(?= )" = "-", "(?<= )-(?= )" = "+",
  "(?<= )\\*(?= )" = "/", "(?<= )/(?= )" = "*", "(?<=\\()!(?=[a-z])" = "",
  "\\bTRUE\\b" = "FALSE", "\\bFALSE\\b" = "TRUE", "\\bmin\\(" = "max(",
  "\\bmax\\(" = "min(", "\\bany\\(" = "all(", "\\ball\\(" = "any(",
  "\\bfloor\\(" = "ceiling(", "\\bcummax\\(" = "cummin(",
  "(?<=[ (])1(?=[ ,)\\]])" = "2", "(?<=[ (])2(?=[ ,)\\]])" = "3",
  "(?<=[ (])0(?=[ ,)\\]])" = "1"
)
faults_in_cpp <- c(
  faults_in_r[grepl("^\\(\\?<= \\)", names(faults_in_r))],
  list(
    "std::min\\(" = "std::max(", "std::max\\(" = "std::min(",
    "\\btrue\\b" = "false", "\\bfalse\\b" = "true",
    "(?<=[ (])1(?=[ ;)\\]])" = "2"
  )
)

# Every place where a fault can be planted: file, line, where on the line, and
# what is put there.
places_in <- function(file) {
  lines <- readLines(file, encoding = "UTF-8")
  faults <- if (grepl("R$", file)) faults_in_r else faults_in_cpp
  aside <- "^\\s*(#|//|\\*)|#include|\"[^\"]*$|template|abort_backfill"
  code <- which(!grepl(aside, lines, perl = TRUE))
  # Texts are left as they are.
  bare <- vapply(strsplit(lines, ""), function(letters) {
    quoted <- cumsum(letters == "\"") %% 2 == 1
    paste(ifelse(quoted, "_", letters), collapse = "")
  }, "")
  found <- lapply(names(faults), function(pattern) {
    at <- gregexpr(pattern, bare[code], perl = TRUE)
    n <- vapply(at, function(x) sum(x > 0), 0)
    data.frame(
      file = rep(file, sum(n)), line = rep(code, n),
      start = unlist(lapply(at, function(x) x[x > 0])),
      length = unlist(lapply(at, function(x) {
        attr(x, "match.length")[x > 0]
      })),
      put = rep(faults[[pattern]], sum(n))
    )
  })
  do.call(rbind, found)
}

with_fault <- function(lines, place) {
  line <- lines[[place$line]]
  parts <- c(
    substr(line, 1, place$start - 1), place$put,
    substr(line, place$start + place$length, nchar(line))
  )
  replace(lines, place$line, paste(parts, collapse = ""))
}

# The tests, those named after the file first, then the short ones.
tests_for <- function(file) {
  tests <- list.files("tests/testthat", "^test-.*[.]R$", full.names = TRUE)
  words <- strsplit(sub("[.].*", "", basename(file)), "[-_]")[[1]]
  named <- vapply(tests, function(test) {
    sum(vapply(words, grepl, NA, x = basename(test), fixed = TRUE))
  }, 0)
  tests[order(-named, file.size(tests))]
}

# What tells of a run of the tests in the copy: the first test that fails.
worker <- '
suppressPackageStartupMessages({library(testthat); library(backfill)})
Sys.setenv(TESTTHAT_PARALLEL = "false")
for (test in commandArgs(trailingOnly = TRUE)) {
  got <- as.data.frame(test_file(
    test, package = "backfill", load_package = "installed",
    reporter = "silent", stop_on_failure = FALSE
  ))
  bad <- got[got$failed > 0 | got$error | got$warning > 0, ]
  if (nrow(bad) > 0) {
    cat("FOUND", basename(test), "|", bad$test[[1]], "\\n")
    quit(status = 1)
  }
}
cat("NOT FOUND\\n")
'

in_copy <- function(copy, command, ..., seconds = 1800) {
  library <- file.path(copy, "build/library")
  env <- sprintf(c(
    "R_LIBS=%s", "BACKFILL_SOURCE=%s", "R_MAKEVARS_USER=%s/tools/Makevars"
  ), c(paste0(library, ":", Sys.getenv("R_LIBS")), copy, copy))
  suppressWarnings(system2(
    "timeout", c(seconds, command, ...), stdout = TRUE, stderr = TRUE, env = env
  ))
}

# What becomes of one fault, as text; NULL plants none.
fate_of <- function(place) {
  copy <- tempfile("fault")
  on.exit(unlink(copy, recursive = TRUE))
  dir.create(file.path(copy, "build/library"), recursive = TRUE)
  kept <- setdiff(
    list.files(".", all.files = TRUE, no.. = TRUE), c("build", ".git")
  )
  file.copy(kept, copy, recursive = TRUE, copy.date = TRUE)
  home <- setwd(copy)
  on.exit(setwd(home), add = TRUE, after = FALSE)
  if (!is.null(place)) {
    lines <- readLines(place$file, encoding = "UTF-8")
    writeLines(with_fault(lines, place), place$file, useBytes = TRUE)
    # What includes a header that changed is compiled again.
    if (grepl("^src", place$file)) unlink(Sys.glob("src/*.o"))
  }
  built <- in_copy(
    copy, "R", "CMD INSTALL --no-test-load --library=build/library ."
  )
  if (!is.null(attr(built, "status"))) {
    return("FOUND by the build")
  }
  said <- in_copy(
    copy, "Rscript", "--vanilla -e", shQuote(worker),
    tests_for(if (is.null(place)) "" else place$file)
  )
  if (identical(attr(said, "status"), 124L)) {
    return("FOUND by its time")
  }
  found <- grep("FOUND", said, value = TRUE)
  if (length(found) == 0) {
    found <- paste("FOUND as the tests broke:", utils::tail(said, 1))
  }
  utils::tail(found, 1)
}

files <- c(
  setdiff(Sys.glob("R/*.R"), c("R/RcppExports.R", "R/backfill-package.R")),
  Sys.glob("src/kernels/*.h"),
  setdiff(Sys.glob("src/*.cpp"), "src/RcppExports.cpp")
)
if (!grepl("^NOT", control <- fate_of(NULL))) {
  stop("Without a fault the tests fail as well: ", control)
}
places <- do.call(rbind, lapply(files, places_in))
set.seed(seed)
chosen <- places[sample(nrow(places), count), ]
fates <- parallel::mclapply(seq_len(count), function(i) {
  fate <- fate_of(chosen[i, ])
  line <- readLines(chosen$file[i], encoding = "UTF-8")
  cat(sprintf(
    "%s:%d  %s  =>  %s\n  %s\n", chosen$file[i], chosen$line[i],
    trimws(line[chosen$line[i]]),
    trimws(with_fault(line, chosen[i, ])[chosen$line[i]]), fate
  ))
  grepl("^FOUND", fate)
}, mc.cores = parallel::detectCores(), mc.preschedule = FALSE)
found <- vapply(fates, isTRUE, NA)
cat(sprintf(
  "%d of %d planted faults were found (%.0f%%), of %d places\n", sum(found),
  count, 100 * mean(found), nrow(places)
))
