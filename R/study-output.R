# What a run leaves: a folder that is put in place as a whole.

manifest_name <- "manifest.json"

# The full path of a folder that a run may replace.
check_run_folder <- function(out, study) {
  stop_folder <- function(what, do = NULL) {
    abort_backfill("file", "{what}", ">" = "{do}")
  }
  if (!rlang::is_string(out) || !nzchar(out)) {
    stop_folder(sprintf(
      "`out` is %s; it must be the path of a folder.", value_in_words(out)
    ))
  }
  above <- dirname(out)
  if (!dir.exists(above) || file.access(above, 2) != 0) {
    stop_folder(
      sprintf("`out` is in the folder %s, which cannot be written to.", above),
      "Name a folder in one that is there."
    )
  }
  out <- file.path(normalizePath(above), basename(out))
  if (file_kind_cpp(out) == "none") {
    return(out)
  }
  if (file_kind_cpp(out) != "folder") {
    stop_folder(sprintf("%s is not a folder.", out), "Name another.")
  }
  held <- list.files(out, all.files = TRUE, no.. = TRUE)
  if (length(held) > 0 && is.null(read_manifest(out))) {
    stop_folder(
      sprintf("%s has other things in it than a run of a study.", out),
      "Name another folder, or empty it."
    )
  }
  inside <- Filter(function(file) is_within(file, out), inputs_of_study(study))
  if (length(inside) > 0) {
    stop_folder(
      sprintf(
        "%s has %s in it, which the study is or reads, and would be replaced.",
        out, basename(inside[[1]])
      ),
      "Name another folder."
    )
  }
  out
}

is_within <- function(file, folder) {
  startsWith(normalizePath(file), paste0(normalizePath(folder), "/"))
}

# All that a study is and reads, as far as it is there.
inputs_of_study <- function(study) {
  steps <- c(study$sources, study$steps, study$figures)
  files <- c(study$file, unlist(lapply(steps, full_paths, study)))
  Filter(file.exists, files)
}

# The manifest of a run that this package wrote; NULL where there is none.
read_manifest <- function(folder) {
  file <- file.path(folder, manifest_name)
  manifest <- if (file_kind_cpp(file) == "regular") tryCatch(
    jsonlite::fromJSON(file, simplifyVector = FALSE),
    error = function(cnd) NULL
  )
  ours <- is.list(manifest) && identical(manifest$backfill, 1L) &&
    rlang::is_string(manifest$package) && is.list(manifest$sources) &&
    is.list(manifest$written)
  if (ours) manifest
}

# What somebody has put into the folder of a run goes along into the next one.
keep_others <- function(out, beside) {
  if (!dir.exists(out)) {
    return(invisible())
  }
  written <- vapply(read_manifest(out)$written, `[[`, "", "file")
  held <- list.files(out, all.files = TRUE, recursive = TRUE)
  others <- setdiff(held, c(written, manifest_name))
  taken <- others[file.exists(file.path(beside, others))]
  if (length(taken) > 0) {
    abort_backfill(
      "file",
      "{out} has {taken[[1]]} in it, which the run before did not write.",
      i = "The run would replace it.",
      ">" = "Move it, or name another folder."
    )
  }
  for (folder in unique(dirname(others))) {
    dir.create(
      file.path(beside, folder), recursive = TRUE, showWarnings = FALSE
    )
  }
  copied <- file.copy(
    file.path(out, others), file.path(beside, others), copy.date = TRUE
  )
  if (!all(copied)) {
    stop_unwritten(
      out, sprintf("%s in it cannot be kept", others[!copied][[1]])
    )
  }
}

write_run <- function(run, study, made) {
  out <- facts(run)$out
  sweep_leftovers(out)
  beside <- tempfile(
    sprintf(".%s-run-%d-", basename(out), Sys.getpid()), dirname(out)
  )
  dir.create(beside)
  on.exit(unlink(beside, recursive = TRUE))
  on_full_disk(
    with_bar("Writing the tables", function(report) {
      fill_run(run, study, made, beside, report)
    }),
    function(reason) stop_unwritten(out, reason)
  )
  keep_others(out, beside)
  swapped <- if (dir.exists(out)) {
    exchange_folders_cpp(beside, out)
  } else {
    file.rename(beside, out)
  }
  if (!swapped) {
    stop_unwritten(out, "it cannot be put in its place")
  }
}

# Folders of runs that were ended before they were put in place.
sweep_leftovers <- function(out) {
  form <- sprintf("^\\.\\Q%s\\E-run-([0-9]+)-", basename(out))
  found <- list.files(dirname(out), all.files = TRUE)
  found <- found[grepl(form, found, perl = TRUE)]
  process <- as.integer(sub(
    paste0(form, ".*"), "\\1", found, perl = TRUE
  ))
  own <- process == Sys.getpid()
  running <- vapply(process, function(id) {
    isTRUE(suppressWarnings(tools::pskill(id, 0)))
  }, NA)
  unlink(
    file.path(dirname(out), found[own | !running]), recursive = TRUE
  )
}

fill_run <- function(run, study, made, folder, report) {
  at <- function(...) file.path(folder, paste0(...))
  figures <- facts(run)$figures
  parts <- paste0(
    c(names(figures), rep("report", length(study$report$formats))),
    c(rep(".png", length(figures)), sprintf(".%s", study$report$formats))
  )
  # A report draws all figures once more.
  work <- ifelse(startsWith(parts, "report."), 1 + length(figures), 1)
  tell <- function(name) {
    if (!is.null(report)) {
      before <- sum(work[seq_len(match(name, parts) - 1)])
      report(before / sum(work), paste("Writing", name))
    }
  }
  writeLines(study$text, at("study.yaml"), useBytes = TRUE)
  for (name in names(study$sources)) {
    put_account(made[[name]]$value, at(name))
    put_records(made[[name]]$value, records_file(folder, name))
  }
  short <- findings_in_short(run)
  said <- if (length(short) > 0) c("In short", paste0("  ", short), "")
  for (one in made[names(study$steps)]) {
    if (one$step$named) {
      for (type in study$tables) {
        write_table(as_table(one$value), at(one$step$name, ".", type))
      }
      said <- c(said, one$step$name, paste0("  ", sentences_of(one$value)), "")
    }
  }
  writeLines(said, at("findings.txt"), useBytes = TRUE)
  for (name in names(figures)) {
    tell(paste0(name, ".png"))
    write_figure(figures[[name]]$plot, at(name, ".png"))
  }
  for (type in study$report$formats) {
    tell(paste0("report.", type))
    write_report(run, at("report.", type))
  }
  writeLines(
    manifest_json(run, study, made, folder), at(manifest_name), useBytes = TRUE
  )
}

# A wide table is one of the base class too; what is not has no rows to write.
as_table <- function(x) {
  if (inherits(x, "backfill_table")) x else tibble::as_tibble(x)
}

put_account <- function(records, base) {
  said <- utils::capture.output(print(account(records)))
  writeLines(said, paste0(base, "-account.txt"), useBytes = TRUE)
  aside <- rows_set_aside(records)
  if (nrow(aside) > 0) {
    put_csv(aside, paste0(base, "-set-aside.csv"))
  }
}

# The records of a run, for the next one to be compared with.
put_records <- function(records, file) {
  if (is_records(records)) {
    data.table::fwrite(
      exact_text(records), file, compress = "gzip", na = "", quote = "auto",
      verbose = FALSE
    )
  }
}

# What names a record and what it says.
described_source <- function(name, records) {
  about <- facts(records)
  list(
    name = name, kept = is_records(records),
    keys = I(as.character(c(about$when, about$known, about$series))),
    measures = I(as.character(names(about$measures))),
    roles = if (is_records(records)) roles_of_records(records)
  )
}

# The files that a study reads, as it names them.
files_of_study <- function(study) {
  steps <- c(study$sources, study$steps, study$figures)
  shown <- unique(unlist(lapply(steps, `[[`, "files")))
  sums_of_files(full_paths(list(files = shown), study), shown)
}

sums_of_files <- function(paths, shown) {
  data.frame(
    file = as.character(shown), bytes = file.size(as.character(paths)),
    md5 = unname(tools::md5sum(as.character(paths)))
  )
}

manifest_json <- function(run, study, made, folder) {
  written <- sort(list.files(folder, recursive = TRUE), method = "radix")
  jsonlite::toJSON(
    list(
      backfill = 1, package = as.character(utils::packageVersion("backfill")),
      r = as.character(getRversion()), study = basename(study$file),
      title = study$title, read = facts(run)$read,
      sources = unname(Map(
        described_source, names(study$sources),
        lapply(made[names(study$sources)], `[[`, "value")
      )),
      written = sums_of_files(file.path(folder, written), written),
      steps = lapply(unname(made), function(one) {
        list(
          name = one$step$name, rows = NROW(one$value),
          call = paste(rlang::expr_deparse(one$step$call), collapse = " ")
        )
      })
    ),
    auto_unbox = TRUE, pretty = TRUE, null = "null", digits = NA
  )
}
