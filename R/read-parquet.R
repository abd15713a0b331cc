read_parquet <- function(file, call) {
  need_package("nanoparquet", "to read Parquet", call)
  data <- tryCatch(nanoparquet::read_parquet(file$path), error = identity)
  if (inherits(data, "error")) {
    abort_backfill("file", sprintf("%s cannot be read as Parquet.", basename(file$shown)),
                   i = sub("\n.*", "", conditionMessage(data)), call = call)
  }
  new_raw(as.list(data), nrow(data), list(names(data)), file$shown, identity)
}
