# The walk of one call: which of the package's functions `roll_up()` passes, in
# which files, and how often it goes from one file to another. Run from the top
# of the checkout, with the package installed in build/library. Doors to the
# kernels are not counted.
suppressPackageStartupMessages(library(
  backfill, lib.loc = "build/library"
))
namespace <- asNamespace("backfill")

# The file that each function is defined in.
homes <- unlist(lapply(
  setdiff(Sys.glob("R/*.R"), "R/RcppExports.R"),
  function(path) {
    calls <- Filter(
      function(one) is.call(one) && identical(one[[1]], quote(`<-`)),
      as.list(parse(path, keep.source = FALSE))
    )
    names <- vapply(calls, function(one) deparse1(one[[2]]), "")
    stats::setNames(rep(basename(path), length(names)), names)
  }
))

passed <- character()
for (name in intersect(names(homes), ls(namespace, all.names = TRUE))) {
  if (is.function(get(name, namespace))) {
    suppressMessages(trace(
      name, bquote(assign("passed", c(passed, .(name)), globalenv())),
      print = FALSE, where = namespace
    ))
  }
}

records <- as_records(
  data.frame(day = as.Date("2031-01-01") + 0:364, sold = sin(1:365) + 2),
  when = "day", measures = c(sold = "flow")
)
passed <- character()
invisible(roll_up(records, "month"))

files <- homes[passed]
cat(sprintf("%-28s %s\n", passed, files), sep = "")
cat(sprintf(
  "%d calls of %d functions in %d files, %d changes of file\n",
  length(passed), length(unique(passed)), length(unique(files)),
  sum(files[-1] != files[-length(files)])
))
