# Where records come from: files, patterns, addresses and connections, each read
# by the reader of its format, and several put below each other.

# A raw table as new_raw() makes it, of all that `file` names. Files made on the
# way lie in `scratch`.
read_sources <- function(file, form, source, scratch, call = caller_env()) {
  if (inherits(file, "DBIConnection")) {
    return(read_database(file, form, call))
  }
  files <- find_files(file, scratch, call)
  if (!is.null(source) && !rlang::is_string(source)) {
    abort_backfill(
      "argument",
      sprintf(
        "`source` is %s; it must be a name for a column.",
        value_in_words(source)
      ),
      call = call
    )
  }
  form$single <- length(files) == 1
  raws <- lapply(files, function(one) read_one(one, form, scratch, call))
  raw <- if (length(raws) == 1) raws[[1]] else below_each_other(raws, call)
  if (!is.null(source)) {
    check_untaken(source, names(raw$data), "source", call)
    name <- sub("[.](gz)$", "", vapply(files, `[[`, "", "shown"))
    name <- sub("[.][^.]*$", "", basename(name))
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

# list(path, shown) for each file: where it lies, and what it is called in
# messages.
find_files <- function(file, scratch, call) {
  if (!is.character(file) || length(file) == 0 || anyNA(file)) {
    abort_backfill(
      "file",
      sprintf(
        "`file` is %s; it must be the path of a file.", value_in_words(file)
      ),
      call = call
    )
  }
  unlist(lapply(file, function(one) {
    if (grepl("^https?://", one)) {
      return(list(list(
        path = download(one, scratch, call), shown = without_secrets(one)
      )))
    }
    lapply(files_named(one, call), function(path) {
      # A pipe can be gone through once only.
      shown <- path
      if (file_kind_cpp(path) == "other") path <- piped(path, scratch, call)
      check_file(path, call)
      # The whole path, so that the file is known again from another working
      # directory.
      list(path = path, shown = if (path == shown) {
        normalizePath(path)
      } else {
        shown
      })
    })
  }), recursive = FALSE)
}

# Those that fit a pattern, or lie in a folder, or the one of that name.
files_named <- function(one, call) {
  if (dir.exists(one)) {
    return(parquet_in(one, call))
  }
  if (file.exists(one) || !grepl("[*?[]", one)) {
    return(one)
  }
  found <- sort(Sys.glob(one))
  if (length(found) == 0) {
    abort_backfill(
      "file", sprintf("No file fits the pattern %s.", one),
      i = sprintf("The working directory is %s.", getwd()), call = call
    )
  }
  found
}

# A folder is one of Parquet, whose tables often come in many files.
parquet_in <- function(folder, call) {
  found <- parquet_files(folder)
  if (length(found) == 0) {
    abort_backfill(
      "file", sprintf(
        "%s is a folder, not a file, and has no .parquet file in it.", folder
      ),
      ">" = sprintf(
        "Name a file in it, or a pattern such as %s.",
        file.path(folder, "*.csv")
      ),
      call = call
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
piped <- function(path, scratch, call) {
  copy <- tempfile(tmpdir = scratch)
  fault <- copy_bytes_cpp(path, copy)
  if (nzchar(fault)) {
    abort_backfill(
      "file", sprintf("%s cannot be read: %s.", path, fault), call = call
    )
  }
  if (file.size(copy) == 0) {
    abort_backfill(
      "file", sprintf("Nothing came through %s.", path), call = call
    )
  }
  copy
}

check_file <- function(file, call = caller_env()) {
  stop_file <- function(what, ...) {
    abort_backfill(
      "file", what, ..., call = call
    )
  }
  if (!file.exists(file)) {
    stop_file(
      sprintf("There is no file %s.", file),
      i = sprintf("The working directory is %s.", getwd())
    )
  }
  if (dir.exists(file)) {
    stop_file(sprintf("%s is a folder, not a file.", file),
              ">" = sprintf(
                "Name a file in it, or a pattern such as %s.",
                file.path(file, "*.csv")
              ))
  }
  if (file.access(file, 4) != 0) {
    stop_file(sprintf("%s cannot be read: its permissions forbid it.", file))
  }
  if (file.size(file) == 0) {
    stop_file(
      sprintf("%s is empty.", file),
      i = "A file with a header and rows is expected."
    )
  }
}

read_one <- function(file, form, scratch, call) {
  format <- file_format(file$path)
  if (format == "gzip") {
    file$path <- gunzip(file, scratch, call)
    format <- file_format(file$path)
  }
  if (format %in% c("text", "json")) {
    file$path <- with_line_ends(
      in_utf8(file, form$encoding, scratch, call), scratch
    )
    format <- if (names_lines(file)) "json" else file_format(file$path)
  }
  check_for_format(form, format, file, call)
  switch(
    format,
    text = {
      file$path <- first_lines(file$path, form$most_bytes, form$quote, scratch)
      read_delimited(file, form, scratch, call)
    },
    json = read_json(file, form, call), workbook = ,
    opendocument = read_workbook(file, format, form, call),
    parquet = read_parquet(file, call), sqlite = read_sqlite(file, form, call),
    netcdf = read_grid(file, form, call),
    abort_backfill(
      "file",
      sprintf(
        "%s is of no format that is read here (it starts with %s).",
        basename(file$shown),
        paste(utils::head(readBin(file$path, "raw", 4), 4), collapse = " ")
      ),
      i = paste(
        "It must be delimited text, gzip, workbooks, JSON, Parquet, SQLite",
        "and NetCDF."
      ),
      call = call
    )
  )
}

# Arguments that say something of another format would be ignored in silence.
check_for_format <- function(form, format, file, call) {
  formats <- list(
    sheet = c("workbook", "opendocument"),
    range = c("workbook", "opendocument"), table = c("json", "sqlite"),
    cells = "netcdf"
  )
  for (name in names(formats)) {
    given <- !is.null(form[[name]]) && !identical(form[[name]], "mean")
    if (given && !format %in% formats[[name]]) {
      noun <- c(
        sheet = "a workbook", range = "a workbook",
        table = "a database or JSON", cells = "a grid"
      )[[name]]
      abort_backfill(
        "argument",
        sprintf(
          "`%s` is given, but %s is not %s.", name, basename(file$shown), noun
        ),
        ">" = "Leave it out.", call = call
      )
    }
  }
}

# What a file is, from its first bytes.
file_format <- function(path) {
  start <- readBin(path, "raw", 512)
  begins <- function(...) {
    with <- as.raw(c(...))
    length(start) >= length(with) && all(start[seq_along(with)] == with)
  }
  text <- function(x) utf8ToInt(x)
  if (begins(0x1f, 0x8b)) {
    "gzip"
  } else if (begins(text("PK"), 3, 4)) {
    inside <- tryCatch(
      utils::unzip(path, list = TRUE)$Name, error = function(cnd) "",
      warning = function(cnd) ""
    )
    if ("content.xml" %in% inside) "opendocument" else "workbook"
  } else if (begins(0xd0, 0xcf, 0x11, 0xe0)) {
    "workbook"
  } else if (begins(text("PAR1"))) {
    "parquet"
  } else if (begins(text("SQLite format 3"))) {
    "sqlite"
  } else if (begins(text("CDF")) || begins(0x89, text("HDF"))) {
    "netcdf"
  } else {
    other_text(start)
  }
}

other_text <- function(start) {
  wide <- length(start) >= 2 && (
    all(start[1:2] == as.raw(c(0xff, 0xfe))) || all(
      start[1:2] == as.raw(c(0xfe, 0xff))
    )
  )
  first <- start[
    !start %in% as.raw(c(0x20, 0x09, 0x0a, 0x0d, 0xef, 0xbb, 0xbf))
  ]
  if (!wide && length(first) > 0 && first[[1]] %in% as.raw(utf8ToInt("{["))) {
    "json"
  } else {
    "text"
  }
}
