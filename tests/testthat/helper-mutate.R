# A mutator: copies of sound files of every format that is read, damaged in
# every class of ways; and what became of each. Seeds decide all of it, so that
# a fault can be had again. `make fuzz` runs thousands of them.

at_random <- function(n, size = 1) sample.int(max(n, 1), min(size, max(n, 1)))

damage <- list(
  "bytes changed" = function(x) {
    at <- at_random(length(x), 3)
    replace(x, at, as.raw(sample(0:255, length(at), replace = TRUE)))
  },
  "bits turned" = function(x) {
    at <- at_random(length(x))
    replace(x, at, xor(x[at], as.raw(bitwShiftL(1L, sample(0:7, 1)))))
  },
  "bytes left out" = function(x) x[-at_random(length(x), 5)],
  "cut short" = function(x) x[seq_len(at_random(length(x)) - 1)],
  "start missing" = function(x) x[-seq_len(at_random(length(x) %/% 4))],
  "text put in" = function(x) {
    append(
      x, charToRaw(sample(odd_texts, 1)), at_random(length(x)) - 1
    )
  },
  "piece repeated" = function(x) append(x, piece(x), at_random(length(x)) - 1),
  "pieces exchanged" = function(x) {
    ends <- sort(at_random(length(x), 3))
    if (length(ends) < 3) return(rev(x))
    c(
      x[seq_len(ends[[1]])], x[seq(ends[[2]], ends[[3]])],
      x[seq(ends[[1]], ends[[2]])], x[ends[[3]]:length(x)]
    )
  },
  "zeros" = function(x) {
    from <- at_random(length(x))
    replace(x, from:min(length(x), from + sample(0:40, 1)), as.raw(0))
  },
  "number grown" = function(x) {
    digits <- which(x >= charToRaw("0") & x <= charToRaw("9"))
    if (length(digits) == 0) return(rev(x))
    append(
      x, charToRaw(strrep("9", sample(c(1, 3, 20, 400), 1))),
      digits[[at_random(length(digits))]]
    )
  }
)

odd_texts <- c(
  "\"", "'", ",", ";", ",,,", "\n\n", "\r", "\t;", "\u00e9", "1e9", "-", "NaN",
  "{", "}", "[", "]", ":", "<", "</row>", "\\u0000", "\xff", "=1+1",
  "9999-12-31", "-0001-01-01", "\n\"", "T24:00Z", "\u202e", "\033[2J"
)

piece <- function(x) {
  from <- at_random(length(x))
  x[from:min(length(x), from + sample(0:200, 1))]
}

# Sound files, by format: list(bytes, ending, read), where `read` gives records,
# or anything else that is to be had.
sound_files <- function(folder) {
  data <- data.frame(
    day = format(as.Date("2031-04-01") + 0:40),
    port = rep_len(c("Brae", "Skerra"), 41), kilos = 1:41 + 0.5, crates = 41:1
  )
  file <- function(name) file.path(folder, name)
  plain <- function(path) {
    read_records(
      path, "day", c(kilos = "flow", crates = "level"), "port",
      duplicates = "keep"
    )
  }
  entry <- function(name, write, read = plain) {
    write(file(name))
    list(
      bytes = readBin(file(name), "raw", 1e6), ending = sub("^[^.]*", "", name),
      read = read
    )
  }
  delimited <- function(...) function(path) data.table::fwrite(data, path, ...)
  across <- stats::setNames(
    as.list(c(5, 9, 12, 40)), format(as.Date("2031-04-07") + 7 * 0:3)
  )
  found <- list(
    "comma separated" = entry("a.csv", delimited()),
    "semicolons, quotes" = entry("b.csv", delimited(sep = ";", quote = TRUE)),
    "as inspect finds" = entry("c.csv", delimited(sep = "\t"), function(path) {
      found <- inspect_file(path)
      if (is.null(found$records)) {
        rlang::abort(found$problem, class = "backfill_error")
      } else {
        found$records
      }
    }),
    "in chunks" = entry("d.csv", delimited(), function(path) {
      read_records(path, "day", c(kilos = "flow"), "port", chunked = TRUE)
    }),
    "dates across" = entry("e.csv", function(path) {
      data.table::fwrite(cbind(data.frame(hall = c("x", "y")), across), path)
    }, function(path) {
      read_records(
        path, measures = c(kwh = "counter"), layout = "dates across",
        series = "hall"
      )
    }),
    "gzip" = entry("f.csv.gz", delimited()),
    "JSON" = entry("g.json", function(path) jsonlite::write_json(data, path)),
    "JSON, a line each" = entry("h.jsonl", function(path) {
      to <- base::file(path)
      jsonlite::stream_out(data, to, verbose = FALSE)
    }),
    "iCalendar" = entry(
      "i.ics", function(path) base::file.copy(demo_file("holidays.ics"), path),
      function(path) {
        read_holidays(path, last_year = 2040)
      }
    ),
    "index of a season" = entry("j.json", function(path) {
      write_index(seasonal_index(roll_up(inns(), "month")), path)
    }, read_index)
  )
  c(found, packed_files(data, entry, plain))
}

# Formats whose readers are only suggested.
packed_files <- function(data, entry, plain) {
  written <- list(
    nanoparquet = list(
      "Parquet", "k.parquet",
      function(path) nanoparquet::write_parquet(data, path)
    ),
    writexl = list(
      "Office Open XML workbook", "l.xlsx",
      function(path) writexl::write_xlsx(data, path)
    ),
    readODS = list(
      "OpenDocument workbook", "m.ods",
      function(path) readODS::write_ods(data, path)
    ),
    RSQLite = list("SQLite", "n.sqlite", function(path) {
      connection <- DBI::dbConnect(RSQLite::SQLite(), path)
      on.exit(DBI::dbDisconnect(connection))
      DBI::dbWriteTable(connection, "landings", data)
    })
  )
  there <- vapply(names(written), requireNamespace, NA, quietly = TRUE)
  found <- lapply(written[there], function(one) entry(one[[2]], one[[3]]))
  names(found) <- vapply(written[there], `[[`, "", 1)
  if (requireNamespace("ncdf4", quietly = TRUE)) {
    found$NetCDF <- entry(
      "o.nc",
      function(path) file.copy(demo_file("sea-2029.nc"), path),
      function(path) {
        read_records(
          path, measures = c(sea_temperature = "level"), duplicates = "keep"
        )
      }
    )
  }
  found
}

# "accepted" with the account whole, "refused" by an error of ours, else what
# went wrong.
outcome_of <- function(read, path) {
  tryCatch({
    out <- read(path)
    if (inherits(out, c("backfill_records", "backfill_chunked"))) {
      check_account(out)
    }
    # Printing takes as long as all the rest.
    if (sample.int(5, 1) == 1) utils::capture.output(print(out))
    "accepted"
  }, backfill_error = function(cnd) "refused", error = function(cnd) {
    paste(
      "fault:", conditionMessage(cnd)
    )
  },
  warning = function(cnd) {
    if (inherits(cnd, "backfill_warning")) {
      "accepted"
    } else {
      paste("warned:", conditionMessage(cnd))
    }
  })
}

check_account <- function(records) {
  account <- account(records)
  stopifnot(
    account$rows_read == account$rows_used + nrow(rows_set_aside(records)),
    inherits(
      records, "backfill_chunked"
    ) ||
      nrow(records) == account$rows_used - account$rows_merged
  )
  utils::capture.output(print(account))
  roll_up(records, "year", cadence = "irregular")
}

# A row for each format and class: how many inputs there were, what became of
# them, and one that went wrong.
fuzz_formats <- function(
  rounds, seed, formats = NULL, tell = function(...) NULL
) {
  folder <- withr::local_tempdir()
  sound <- sound_files(folder)
  for (format in names(sound)) {
    path <- file.path(folder, paste0("sound", sound[[format]]$ending))
    writeBin(sound[[format]]$bytes, path)
    if (outcome_of(sound[[format]]$read, path) != "accepted") {
      stop(format, ": the sound file is not read")
    }
  }
  cells <- expand.grid(class = names(damage), format = if (is.null(formats)) {
    names(sound)
  } else {
    formats
  }, stringsAsFactors = FALSE)
  rows <- lapply(seq_len(nrow(cells)), function(i) {
    from <- sound[[cells$format[[i]]]]
    path <- file.path(folder, paste0("damaged", from$ending))
    outcome <- vapply(
      seq_len(rounds),
      function(round) {
        withr::with_seed(seed + 1000 * i + round, {
          writeBin(damage[[cells$class[[i]]]](from$bytes), path)
          outcome_of(from$read, path)
        })
      },
      ""
    )
    tell(cells$format[[i]], cells$class[[i]])
    wrong <- !outcome %in% c("accepted", "refused")
    data.frame(
      format = cells$format[[i]], class = cells$class[[i]], inputs = rounds,
      refused = sum(outcome == "refused"),
      accepted = sum(outcome == "accepted"), faults = sum(wrong),
      first = if (any(wrong)) {
        paste("seed", seed + 1000 * i + which(wrong)[[1]], outcome[wrong][[1]])
      } else {
        ""
      }
    )
  })
  do.call(rbind, rows)
}
