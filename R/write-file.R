# Where and how files are written: never over an input, and never by halves.

check_output <- function(file, sources = character(), call = caller_env()) {
  if (!rlang::is_string(file) || !nzchar(file)) {
    abort_backfill("file", sprintf("`file` is %s; it must be the path of one file.", value_in_words(file)), call = call)
  }
  if (dir.exists(file)) {
    abort_backfill("file", sprintf("%s is a folder.", file), ">" = "Name a file in it.", call = call)
  }
  if (!dir.exists(dirname(file))) {
    abort_backfill("file", sprintf("There is no folder %s to write %s to.", dirname(file), basename(file)),
                   ">" = "Make the folder first.", call = call)
  }
  if (file.access(dirname(file), 2) != 0) {
    abort_backfill("file", sprintf("The folder %s cannot be written to.", dirname(file)), call = call)
  }
  if (file.exists(file) && normalizePath(file) %in% normalizePath(as.character(sources), mustWork = FALSE)) {
    abort_backfill("file", sprintf("%s is the file that the records were read from; it is not overwritten.", file),
                   ">" = "Give the result a name of its own.", call = call)
  }
}

# Calls `write` with a path beside `file`, and renames what it wrote into place.
write_beside <- function(file, write) {
  beside <- tempfile(paste0(".", basename(file), "-"), tmpdir = dirname(file), fileext = paste0(".", file_type(file)))
  on.exit(unlink(beside))
  write(beside)
  if (!file.rename(beside, file)) {
    abort_backfill("file", sprintf("%s cannot be written.", file))
  }
}

file_type <- function(file) {
  tolower(sub("^.*[.]", "", basename(file)))
}
