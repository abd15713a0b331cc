# The rooms of docs/architecture.md: each may use what comes before it, never
# what comes after.

core <- c(
  "calendar", "records", "periods", "change", "moving", "season", "lags",
  "flags", "links", "describe", "trace"
)
rooms <- c(
  "words", "check", "table", "backfill", core, "read", "write", "at", "verbs",
  "print", "figure", "report", "study", "cli"
)

# The code in the braces of a template.
code_in_template <- function(text) {
  if (!grepl("{", text, fixed = TRUE)) {
    return(NULL)
  }
  found <- list()
  glue::glue(text, .transformer = function(code, envir) {
    found <<- c(found, as.list(parse(text = code, keep.source = FALSE)))
    ""
  })
  found
}

templated <- c("abort_backfill", "stop_usage", "warn_backfill", "glue")

called_as <- function(e, names) {
  is.call(e) && is.symbol(e[[1]]) && as.character(e[[1]]) %in% names
}

texts_in <- function(e) {
  if (is.character(e)) {
    e
  } else if (is.call(e)) {
    unlist(lapply(as.list(e)[-1], texts_in))
  }
}

# Every name in a piece of code and in its templates, but for those of elements,
# behind a `$`.
names_used <- function(e) {
  if (is.symbol(e)) {
    return(as.character(e))
  }
  if (called_as(e, templated)) {
    code <- unlist(lapply(texts_in(e), code_in_template))
    return(c(
      unlist(lapply(code, names_used)),
      names_used(as.call(c(quote(`{`), as.list(e))))
    ))
  }
  if (!is.call(e) && !is.pairlist(e)) {
    return(NULL)
  }
  parts <- as.list(e)
  if (length(parts) > 0 && identical(parts[[1]], as.name("$"))) {
    parts <- parts[-3]
  }
  unlist(lapply(parts, function(part) if (!missing(part)) names_used(part)))
}

test_that("no room uses one that comes after it, and the core opens, prints and draws nothing", {
  files <- list.files(
    checkout("R"), pattern = "^[a-z]+-.*[.]R$", full.names = TRUE
  )
  room <- factor(sub("-.*", "", basename(files)), rooms)
  expect_setequal(as.character(room), rooms)

  # What each file defines at its top level, and every name it uses.
  code <- lapply(files, parse, keep.source = FALSE)
  defined <- lapply(code, function(file) {
    unlist(lapply(
      file,
      function(e) {
        if (is.call(e) &&
              identical(e[[1]], as.name("<-"))) all.vars(e[[2]])
      }
    ))
  })
  expect_identical(
    anyDuplicated(unlist(defined)), 0L
  ) # of two, the one in the later file would hold for both

  interface <- c(
    "cat", "print", "message", "writeLines", "file", "readLines", "readBin",
    "stdin", "stderr", "commandArgs", "quit",
    "cli", "ggplot2", "ggrepel", "scales", "optparse", "data.table", "jsonlite",
    "utils"
  )
  for (i in seq_along(files)) {
    later <- unlist(defined[as.integer(room) > as.integer(room[[i]])])
    used <- unique(names_used(as.call(c(as.name("{"), as.list(code[[i]])))))
    expect_identical(
      intersect(
        used, c(character(), later, if (room[[i]] %in% core) interface)
      ),
      character(), label = basename(files[[i]])
    )
  }
})

# What stands for templates in a call: what is not written out there.
not_written_out <- function(e) {
  if (is.character(e) || is.null(e)) {
    return(NULL)
  }
  if (called_as(e, "paste")) {
    parts <- as.list(e)[-1]
    return(if (!all(vapply(parts, is.character, NA))) deparse1(e))
  }
  if (called_as(e, c("if", "{"))) {
    values <- as.list(e)[if (called_as(e, "if")) -(1:2) else length(e)]
    return(unlist(lapply(values, not_written_out)))
  }
  deparse1(e)
}

# Of every call in a piece of code what `look` says.
of_calls <- function(e, look) {
  parts <- Filter(function(part) is.call(part) || is.pairlist(part), as.list(e))
  c(look(e), unlist(lapply(parts, of_calls, look), recursive = FALSE))
}

# list(what is not written out) for a call that takes templates.
templates_in <- function(e) {
  if (!called_as(e, templated)) {
    return(NULL)
  }
  first <- if (called_as(e, c("abort_backfill", "warn_backfill"))) 2 else 1
  texts <- as.list(e)[-seq_len(first)]
  texts <- texts[!names(texts) %in% c("choices", ".envir")]
  list(setdiff(unlist(lapply(texts, not_written_out)), "..."))
}

test_that("templates are written out where they are used, never made of data", {
  code <- lapply(
    list.files(checkout("R"), full.names = TRUE), parse, keep.source = FALSE
  )
  calls <- lapply(code, function(file) {
    unlist(lapply(file, of_calls, templates_in), recursive = FALSE)
  })
  calls <- unlist(calls, recursive = FALSE)
  expect_gt(length(calls), 500)
  expect_identical(unlist(calls), character())

  # Values that look like templates are told as they are.
  told <- expect_error(
    read_records("{stop('run')}.csv"), class = "backfill_error_file"
  )
  expect_match(conditionMessage(told), "{stop('run')}.csv", fixed = TRUE)
})

test_that("the kernels know nothing of R", {
  kernels <- list.files(checkout("src", "kernels"), full.names = TRUE)
  expect_gt(length(kernels), 5)
  for (kernel in kernels) {
    of_r <- grepl(
      "Rcpp|SEXP|Rinternals|R_NaN|NA_REAL|#include <R", readLines(kernel)
    )
    expect_false(any(of_r), label = basename(kernel))
  }
})

test_that("formats go by their own names, and no file names a registry's host", {
  files <- list.files(
    checkout(c(
      "R", "src", "tools", "docs", "bench", "exec", "inst", "man", "tests",
      "data-raw"
    )),
    pattern = "[.](R|Rd|cpp|h|md|sh|yaml|mjs|json|js|css|html)$",
    full.names = TRUE, recursive = TRUE
  )
  files <- c(
    files[!grepl("node_modules|test-rooms", files)],
    checkout(c("README.md", "NEWS.md", "DESCRIPTION", "Makefile"))
  )
  expect_gt(length(files), 500)
  odd <- unlist(lapply(files[file.exists(files)], function(file) {
    text <- readLines(file, warn = FALSE, encoding = "UTF-8")
    # A package's own names are what it is called by.
    text <- gsub("readxl::?:?[a-z_]+|excel_sheets|read_excel", "", text)
    program <- grepl("excel|libreoffice|openoffice", text, ignore.case = TRUE)
    host <- grepl(
      "cran[.-][a-z.]*[.](org|com)|r-project[.]org|npmjs[.]|pypi[.]", text
    )
    sprintf("%s: %s", basename(file), c(text[program], text[host]))
  }))
  expect_identical(odd, character())
})

# What is wrong with the calls of functions of the package in a piece of code.
calls_amiss <- function(e, home) {
  amiss <- NULL
  if (is.call(e) && is.symbol(e[[1]])) {
    name <- as.character(e[[1]])
    of <- get0(name, home, mode = "function", inherits = FALSE)
    # What `...` holds can be anything.
    open <- any(vapply(as.list(e)[-1], identical, NA, quote(...)))
    if (is.function(of) && !open) {
      amiss <- tryCatch(
        {
          match.call(of, e)
          NULL
        },
        error = conditionMessage
      )
    }
  }
  if (!is.recursive(e)) {
    return(amiss)
  }
  c(amiss, unlist(lapply(seq_along(e), function(i) {
    if (!rlang::is_missing(e[[i]])) calls_amiss(e[[i]], home)
  })))
}

test_that("no call gives a function of ours what it does not take", {
  home <- asNamespace("backfill")
  functions <- Filter(is.function, mget(ls(home, all.names = TRUE), home))
  amiss <- lapply(functions, function(of) {
    calls_amiss(c(as.list(formals(of)), body(of)), home)
  })
  expect_identical(unlist(amiss), NULL)
  expect_match(
    calls_amiss(quote(f(facts(x, 3))), home), "unused argument", fixed = TRUE
  )
})

test_that("no name is defined twice, as the later would silently take its place", {
  files <- setdiff(
    Sys.glob(checkout("R", "*.R")), checkout("R", "RcppExports.R")
  )
  defined <- unlist(lapply(files, function(file) {
    code <- Filter(function(one) {
      is.call(one) && identical(one[[1]], as.name("<-"))
    }, as.list(parse(file, keep.source = FALSE)))
    vapply(code, function(one) deparse1(one[[2]]), "")
  }))
  expect_gt(length(defined), 2000)
  expect_identical(defined[duplicated(defined)], character())
})
