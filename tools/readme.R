# Runs the commands of README.md and of the guides in order and puts what they
# print below each, or, with --check, says where a page differs from it. A block
# of code is marked `r` or `sh`, and the block `text` after it holds what it
# prints. Each page starts anew.
suppressPackageStartupMessages(library(backfill))
check <- "--check" %in% commandArgs(trailingOnly = TRUE)
options(cli.width = 100, width = 100, cli.num_colors = 1L)
Sys.setenv(
  PATH = paste(
    dirname(system.file("exec", "backfill", package = "backfill")),
    Sys.getenv("PATH"), sep = ":"
  )
)
folder <- tempfile()
dir.create(folder)
grDevices::pdf(NULL)

run_r <- function(code, session) {
  home <- setwd(folder)
  on.exit(setwd(home))
  utils::capture.output(source(
    exprs = parse(text = code), local = session, print.eval = TRUE, echo = FALSE
  ))
}

# Sentences and errors first, as on a terminal, where they come before the
# table. Commands that need no shell are run in here, where they need not start.
run_sh <- function(code) {
  lines <- strsplit(
    gsub("\\\\\n", "", paste(code, collapse = "\n")), "\n"
  )[[1]]
  plain <- all(grepl("^backfill [^|<>;&$`]*$", lines))
  err <- tempfile()
  out <- if (plain) run_in_here(lines, err) else suppressWarnings(system2(
    "sh", c("-c", shQuote(paste(code, collapse = "\n"))), stdout = TRUE,
    stderr = err
  ))
  c(readLines(err, encoding = "UTF-8"), out)
}

run_in_here <- function(lines, err) {
  narrow <- options(cli.width = 80, width = 80)
  to <- file(err, "w")
  sink(to, type = "message")
  on.exit({
    sink(type = "message")
    close(to)
    options(narrow)
  })
  utils::capture.output(for (line in lines) {
    backfill:::run_command_line(scan(text = line, what = "", quiet = TRUE)[-1])
  })
}

# The lines of a page with what its code prints.
page_as_printed <- function(page) {
  session <- new.env()
  fence <- grep("^```", page)
  made <- character()
  done <- 0
  for (i in seq(1, length(fence) - 1, by = 2)) {
    language <- sub("```", "", page[fence[i]])
    inside <- page[seq_len(fence[i + 1] - 1)][-seq_len(fence[i])]
    if (language == "text") {
      made <- c(made, page[(done + 1):fence[i]], trimws(printed, "right"))
      done <- fence[i + 1] - 1
    } else if (language == "r") {
      printed <- run_r(inside, session)
    } else if (language == "sh") {
      printed <- run_sh(inside)
    }
  }
  c(made, page[(done + 1):length(page)])
}

status <- 0
for (file in c("README.md", Sys.glob("docs/guide-*.md"))) {
  page <- enc2utf8(readLines(file, encoding = "UTF-8"))
  made <- enc2utf8(page_as_printed(page))
  if (!check) {
    writeLines(made, file, useBytes = TRUE)
  } else if (!identical(made, page)) {
    other <- made != page[seq_along(made)]
    differs <- which(other | is.na(other))[1]
    cat(sprintf(
      "%s, line %d, is not what is printed:\n%s\n%s\n", file, differs,
      page[differs], made[differs]
    ))
    status <- 1
  }
}
quit(save = "no", status = status)
