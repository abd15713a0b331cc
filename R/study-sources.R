# The sources of a study, and the calendar of its steps.

planned_sources <- function(found, allowed) {
  if (!is.list(found) || length(found) == 0 || is.null(names(found))) {
    allowed$faults$add(list("records"), paste(
      "\"records\" must be a map of sources by their names, each with `file`,",
      "`when` and `measures`."
    ))
    return(list())
  }
  if (!is.list(found[["file"]]) && !is.null(found[["file"]])) {
    allowed$faults$add(list("records"), paste(
      "The source has no name: write it as `records: {NAME: {file: ...}}`, by",
      "which steps call it."
    ))
    return(list())
  }
  sources <- lapply(names(found), function(name) {
    path <- list("records", name)
    if (check_study_name(name, path, character(), allowed$faults)) {
      planned_source(name, found[[name]], path, allowed)
    }
  })
  stats::setNames(sources, names(found))
}

planned_source <- function(name, found, path, allowed) {
  if (!is.list(found) || is.null(names(found))) {
    allowed$faults$add(path, "A source must be a map with `file` and `when`.")
    return(NULL)
  }
  if (!is.null(found$database)) {
    return(planned_source_at(name, found, path, allowed))
  }
  declared <- verbs()$read_records$arguments
  check_keys(found, c("file", names(declared)), path, allowed$faults)
  if (is.null(found$file)) {
    allowed$faults$add(
      path, sprintf("The source \"%s\" names no `file`.", name)
    )
  }
  allowed$seen$files <- character()
  files <- unlist(lapply(found$file, function(one) {
    fitting <- files_fitting(one, allowed)
    each <- lapply(fitting, study_file, c(path, "file"), allowed)
    # A pattern stays one, as it names the series of its files.
    if (identical(fitting, one) || !grepl("[*?[]", one)) each else one
  }))
  arguments <- study_arguments(
    found[intersect(names(found), names(declared))], declared, path,
    character(), allowed
  )
  new_step(
    name, rlang::call2("read_records", as_code(files), !!!arguments$values),
    character(), allowed$seen$files, path
  )
}

# The Parquet files of a folder, and the files that a pattern such as *.csv
# fits, so that one that comes or changes is noticed; other paths as they are.
files_fitting <- function(value, allowed) {
  if (!rlang::is_string(value) || is_address(value)) {
    return(value)
  }
  before <- if (is_absolute(value)) "" else paste0(allowed$folder, "/")
  full <- paste0(before, value)
  found <- if (dir.exists(full)) {
    file.path(sub("/$", "", value), parquet_files(full))
  } else if (!file.exists(full)) {
    substring(sort(Sys.glob(full)), nchar(before) + 1)
  }
  if (length(found) == 0) value else found
}

# Records in a database: of SQLite or DuckDB a file as any file, others where
# addresses are allowed.
planned_source_at <- function(name, found, path, allowed) {
  declared <- verbs()$records_at$arguments
  check_keys(found, names(declared), path, allowed$faults)
  allowed$seen$files <- character()
  address <- if (rlang::is_string(found$database)) found$database
  base <- regmatches(address, regexpr(file_bases, address))
  file <- if (!is.null(address)) sub(file_bases, "", address)
  if (isTRUE(has_secret(file))) {
    allowed$faults$add(
      c(path, "database"),
      "The address has a password in it, which a study may not."
    )
    return(NULL)
  }
  at <- study_file(file, c(path, "database"), allowed)
  arguments <- study_arguments(
    found[setdiff(names(found), "database")], declared, path, character(),
    allowed
  )
  new_step(
    name, rlang::call2(
      "records_at", if (is.null(at) || is_address(at)) at else
        paste0(c(base, "sqlite:")[[1]], at), !!!arguments$values
    ),
    character(), allowed$seen$files, path
  )
}

planned_calendar <- function(found, allowed) {
  if (is.null(found)) {
    return(NULL)
  }
  path <- list("calendar")
  if (rlang::is_string(found)) {
    found <- list(every = found)
  }
  if (!is.list(found) || is.null(names(found))) {
    allowed$faults$add(
      path, "\"calendar\" must be a map, such as {every: month}."
    )
    return(NULL)
  }
  allowed$seen$files <- character()
  call <- calendar_call(found, path, allowed)
  list(call = call, files = allowed$seen$files)
}

calendar_call <- function(found, path, allowed) {
  arguments <- study_arguments(
    found, verbs()$calendar$arguments, path, character(), allowed
  )
  rlang::call2("calendar", !!!arguments$values)
}
