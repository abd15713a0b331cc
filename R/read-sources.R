# Where records come from: files, patterns, addresses and connections, each read
# by the reader of its format, and several put below each other.

# A raw table as new_raw() makes it, of all that `file` names. Files made on the
# way lie in `scratch`.
read_sources <- function(file, form, source, scratch) {
  if (inherits(file, "DBIConnection")) {
    return(read_database(file, form))
  }
  files <- find_files(file, scratch)
  if (!is.null(source) && !rlang::is_string(source)) {
    abort_backfill(
      "argument",
      "`source` is {value_in_words(source)}; it must be a name for a column."
    )
  }
  form$single <- length(files) == 1
  raws <- lapply(files, function(one) read_one(one, form, scratch))
  raw <- if (length(raws) == 1) raws[[1]] else below_each_other(raws)
  if (!is.null(source)) {
    check_untaken(source, names(raw$data), "source")
    name <- vapply(files, `[[`, "", "name")
    raw$data[[source]] <- rep(name, times = vapply(raws, `[[`, 0L, "rows"))
    last <- length(raw$header)
    raw$header <- lapply(
      seq_len(last),
      function(k) {
        c(raw$header[[k]], if (k == last) {
          source
        } else {
          ""
        })
      }
    )
    raw$series <- c(raw$series, source)
  }
  raw
}

# list(path, shown, name) for each file: where it lies, what it is called in
# messages, and as a series.
find_files <- function(file, scratch) {
  if (!is.character(file) || length(file) == 0 || anyNA(file)) {
    abort_backfill(
      "file",
      "`file` is {value_in_words(file)}; it must be the path of a file.",
      ">" = if (is.data.frame(file)) "as_records() takes a data frame."
    )
  }
  unlist(lapply(file, function(one) {
    if (grepl("^https?://", one)) {
      shown <- without_secrets(one)
      return(list(list(
        path = download(one, scratch), shown = shown, name = bare_name(shown)
      )))
    }
    lapply(files_named(one), function(path) {
      # A pipe can be gone through once only.
      shown <- path
      if (file_kind_cpp(path) == "other") {
        path <- piped(path, tempfile(tmpdir = scratch))
      }
      check_file(path)
      name <- name_by_pattern(shown, one)
      # The whole path, so that the file is known again from another working
      # directory.
      list(path = path, name = name, shown = if (path == shown) {
        normalizePath(path)
      } else {
        shown
      })
    })
  }), recursive = FALSE)
}

bare_name <- function(shown) {
  sub("[.][^.]*$", "", basename(sub("[.](gz)$", "", shown)))
}

# What the only star of a pattern stands for, which a further file does not
# change; else the name of the file.
name_by_pattern <- function(shown, pattern) {
  pattern <- path.expand(pattern)
  star <- gregexpr("[*?[]", pattern)[[1]]
  alone <- length(star) == 1 && substr(pattern, star, star) == "*"
  if (shown == pattern || !alone) {
    return(bare_name(shown))
  }
  substr(shown, star, nchar(shown) - nchar(pattern) + star)
}

# Those that fit a pattern, or lie in a folder, or the one of that name.
files_named <- function(one) {
  if (dir.exists(one)) {
    return(parquet_in(one))
  }
  if (file.exists(one) || !grepl("[*?[]", one)) {
    return(one)
  }
  found <- sort(Sys.glob(one))
  if (length(found) == 0) {
    abort_backfill(
      "file", "No file fits the pattern {one}.",
      i = "The working directory is {getwd()}."
    )
  }
  found
}

# A folder is one of Parquet, whose tables often come in many files.
parquet_in <- function(folder) {
  found <- parquet_files(folder)
  if (length(found) == 0) {
    abort_backfill(
      "file",
      "{folder} is a folder, not a file, and has no .parquet file in it.",
      ">" = "Name a file in it, or a pattern such as",
      "{file.path(folder, '*.csv')}."
    )
  }
  file.path(folder, found)
}

# In the order of their names, as others find them from the folder.
parquet_files <- function(folder) {
  sort(list.files(
    folder, "[.]parquet$", recursive = TRUE, ignore.case = TRUE
  ), method = "radix")
}

# A copy of all that comes through a pipe or device.
piped <- function(path, copy) {
  fault <- copy_bytes_cpp(path, copy)
  if (nzchar(fault)) {
    abort_backfill("file", "{path} cannot be read: {fault}.")
  }
  if (file.size(copy) == 0) {
    abort_backfill("file", "Nothing came through {path}.")
  }
  copy
}

check_file <- function(file) {
  if (!file.exists(file)) {
    abort_backfill(
      "file", "There is no file {file}.",
      i = "The working directory is {getwd()}."
    )
  }
  if (dir.exists(file)) {
    abort_backfill(
      "file", "{file} is a folder, not a file.",
      ">" = "Name a file in it, or a pattern such as",
      "{file.path(file, '*.csv')}."
    )
  }
  if (file.access(file, 4) != 0) {
    abort_backfill(
      "file", "{file} cannot be read: its permissions forbid it."
    )
  }
  if (file.size(file) == 0) {
    abort_backfill(
      "file", "{basename(file)} is empty.",
      i = "A file with a header and rows is expected."
    )
  }
}
