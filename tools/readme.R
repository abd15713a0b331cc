# Runs the commands of README.md in order and puts what they print below each,
# or, with --check, says where the README differs from it. A block of code is
# marked `r` or `sh`, and the block `text` behind it holds what it prints.
suppressPackageStartupMessages(library(backfill))
check <- "--check" %in% commandArgs(trailingOnly = TRUE)
readme <- readLines("README.md", encoding = "UTF-8")
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
session <- new.env()

run_r <- function(code) {
  home <- setwd(folder)
  on.exit(setwd(home))
  utils::capture.output(source(
    exprs = parse(text = code), local = session, print.eval = TRUE, echo = FALSE
  ))
}

# Sentences and errors first, as on a terminal, where they come before the
# table.
run_sh <- function(code) {
  err <- tempfile()
  out <- suppressWarnings(system2(
    "sh", c("-c", shQuote(paste(code, collapse = "\n"))), stdout = TRUE,
    stderr = err
  ))
  c(readLines(err, encoding = "UTF-8"), out)
}

fence <- grep("^```", readme)
made <- character()
done <- 0
for (i in seq(1, length(fence) - 1, by = 2)) {
  language <- sub("```", "", readme[fence[i]])
  inside <- readme[seq_len(fence[i + 1] - 1)][-seq_len(fence[i])]
  if (language == "text") {
    made <- c(made, readme[(done + 1):fence[i]], trimws(printed, "right"))
    done <- fence[i + 1] - 1
  } else if (language %in% c("r", "sh")) {
    printed <- if (language == "r") run_r(inside) else run_sh(inside)
  }
}
made <- c(made, readme[(done + 1):length(readme)])
if (!check) {
  writeLines(enc2utf8(made), "README.md", useBytes = TRUE)
} else if (!identical(enc2utf8(made), enc2utf8(readme))) {
  differs <- which(
    made != readme[seq_along(made)] | is.na(readme[seq_along(made)])
  )[1]
  cat(sprintf(
    "README.md, line %d, is not what is printed:\n%s\n%s\n", differs,
    readme[differs], made[differs]
  ))
  quit(save = "no", status = 1)
}
