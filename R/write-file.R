# Where and how files are written: never over an input, and never by halves.

check_output <- function(file, sources = character()) {
  stop_output <- function(what, do = NULL) {
    abort_backfill("file", "{what}", ">" = "{do}")
  }
  if (!rlang::is_string(file) || !nzchar(file)) {
    stop_output(sprintf(
      "`file` is %s; it must be the path of one file.", value_in_words(file)
    ))
  }
  folder <- dirname(file)
  if (nchar(basename(file), "bytes") > 240) {
    stop_output("The name of the file is longer than a file system takes.")
  }
  if (dir.exists(file)) {
    stop_output(sprintf("%s is a folder.", file), "Name a file in it.")
  }
  if (!dir.exists(folder)) {
    stop_output(
      glue("There is no folder {folder} to write {basename(file)} to."),
      "Make the folder first."
    )
  }
  if (file.access(folder, 2) != 0) {
    stop_output(sprintf("The folder %s cannot be written to.", folder))
  }
  read <- normalizePath(as.character(sources), mustWork = FALSE)
  if (file.exists(file) && normalizePath(file) %in% read) {
    stop_output(
      sprintf(
        "%s is the file that the records were read from; it is not overwritten.",
        file
      ),
      "Give the result a name of its own."
    )
  }
}

# Calls `write` with a path beside `file`, and renames what it wrote into place
# once it is whole, so that a former file stays until then. A link stays one, a
# file keeps its mode, and a pipe or device is written to.
write_beside <- function(file, write) {
  kind <- file_kind_cpp(file)
  target <- if (kind == "none") file else normalizePath(file)
  folder <- if (kind == "other") tempdir() else dirname(target)
  beside <- tempfile(
    ".backfill-", tmpdir = folder, fileext = paste0(".", file_type(file))
  )
  on.exit(unlink(beside))
  remove_left(folder)
  write_whole(beside, file, write)
  if (kind == "other") {
    fault <- copy_bytes_cpp(beside, target)
    if (nzchar(fault)) stop_unwritten(file, fault)
    return(invisible(file))
  }
  if (kind == "regular") {
    Sys.chmod(beside, file.info(target)$mode, use_umask = FALSE)
  }
  if (!suppressWarnings(file.rename(beside, target))) {
    stop_unwritten(file, "it cannot be put in its place")
  }
  invisible(file)
}

# What a run that was killed has left in the folder, an hour ago or more: one
# that still writes has just done so.
remove_left <- function(folder) {
  left <- list.files(
    folder, "^[.]backfill-[0-9a-f]+[.]", full.names = TRUE, all.files = TRUE
  )
  old <- difftime(Sys.time(), file.mtime(left), units = "hours") > 1
  unlink(left[old %in% TRUE])
}

# Lets `write` write, and makes sure that all of it arrived, as on a full disk
# it does not.
write_whole <- function(path, file, write) {
  on_full_disk(write(path), function(reason) stop_unwritten(file, reason))
  if (!ends_whole(path, file_type(file))) {
    stop_unwritten(file, "not all of it could be written, as on a full disk")
  }
}

# Calls `stop` with the reason where `code` fails as it cannot write.
on_full_disk <- function(code, stop) {
  tryCatch(code, error = function(cnd) {
    full <- grepl(
      paste0(
        "no space|quota|too large|disk|error writing|write error|",
        "(fail|not|unable).*writ|libxlsxwriter"
      ),
      conditionMessage(cnd), ignore.case = TRUE
    )
    if (full && !inherits(cnd, "backfill_error")) {
      stop(sub("[.]?\n.*", "", conditionMessage(cnd)))
    }
    rlang::cnd_signal(cnd)
  })
}

# Whether a file ends as those of its type do.
ends_whole <- function(path, type) {
  if (!file.exists(path)) {
    return(FALSE)
  }
  end <- last_bytes(path, 1024)
  text <- rawToChar(end[end != as.raw(0)])
  switch(
    type, png = grepl("IEND", text, fixed = TRUE, useBytes = TRUE),
    svg = grepl("</svg>\\s*$", text, useBytes = TRUE),
    pdf = grepl(
      "%%EOF\\s*$", text, useBytes = TRUE
    ),
    json = grepl("[]}]\\s*$", text, useBytes = TRUE),
    html = grepl("</html>\\s*$", text, useBytes = TRUE),
    xlsx = grepl(
      "PK\005\006", text, fixed = TRUE, useBytes = TRUE
    ),
    parquet = grepl("PAR1$", text, useBytes = TRUE),
    csv = , jsonl = , md = grepl("\n$", text, useBytes = TRUE), length(end) > 0
  )
}

stop_unwritten <- function(file, reason) {
  abort_backfill(
    "file", "{file} cannot be written: {sub('[.]$', '', reason)}.",
    i = "What stood there before is as it was."
  )
}
