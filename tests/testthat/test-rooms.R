# The rooms of docs/architecture.md: each may use what comes before it, never what comes after.

test_that("no file of the core reaches up to reading, printing, drawing or the command line", {
  files <- list.files(checkout("R"), pattern = "[.]R$", full.names = TRUE)
  room <- sub("-.*", "", basename(files))
  core <- c("calendar", "records", "periods", "change", "moving")
  expect_setequal(room, c("backfill", core, "read", "write", "print", "figure", "cli", "RcppExports.R"))

  # What each file defines at its top level, and every name it uses.
  code <- lapply(files, parse, keep.source = FALSE)
  defined <- lapply(code, function(file) {
    unlist(lapply(file, function(e) if (is.call(e) && identical(e[[1]], as.name("<-"))) all.vars(e[[2]])))
  })
  upper <- unlist(defined[room %in% c("read", "write", "print", "figure", "cli")])
  interface <- c(
    "cat", "print", "message", "writeLines", "file", "readLines", "readBin", "stdin", "stderr", "commandArgs", "quit",
    "cli", "ggplot2", "scales", "optparse", "data.table", "jsonlite", "utils"
  )
  for (i in which(room %in% core)) {
    used <- all.names(code[[i]], unique = TRUE)
    expect_identical(intersect(used, c(upper, interface)), character(), label = basename(files[[i]]))
  }
})

test_that("the kernels know nothing of R", {
  kernels <- list.files(checkout("src", "kernels"), full.names = TRUE)
  expect_gt(length(kernels), 5)
  for (kernel in kernels) {
    of_r <- grepl("Rcpp|SEXP|Rinternals|R_NaN|NA_REAL|#include <R", readLines(kernel))
    expect_false(any(of_r), label = basename(kernel))
  }
})
