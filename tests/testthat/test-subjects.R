# Every sentence of a table of several series and measures says which it is of.

test_that("no result names a line without its measure where there are several", {
  results <- every_result(
    read_plain(plain_records()), first = "first_m", second = "second_m"
  )
  # Those of one measure alone, as they are asked for.
  one_measure <- c(
    "widen", "widen_series", "basket", "season_spells", "spell_summary",
    "check_identity", "put_together", "trace_index"
  )
  for (name in setdiff(names(results), one_measure)) {
    x <- results[[name]]
    if (!inherits(x, "backfill_result")) next
    said <- backfill:::said_in_report(x)
    bare <- grepl("\\b(Brod|Kell)\\b(?! / (first|second)_m)", said, perl = TRUE)
    expect_false(any(bare), label = paste(c(name, said[bare]), collapse = " "))
    subjects <- sub("^(\\S+ / \\S+m\\b).*", "\\1", said)
    subjects <- subjects[grepl("^(Brod|Kell) / ", said)]
    expect_identical(anyDuplicated(subjects), 0L, label = name)
  }
  # A line keeps its name where rows are left out, and when it is read back.
  memory <- summary(autocorrelation(roll_up(
    read_plain(plain_records()), "month"
  )))
  expect_match(
    backfill:::lines_of_result(memory[1, ]), "^Brod / first_m$"
  )
  latest <- results$latest
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(latest, file)
  expect_identical(
    backfill:::describe(read_periods(file)), backfill:::describe(latest)
  )
  # Tiles too.
  tiles <- backfill:::latest_figures(results$roll_up)$rows$line
  expect_identical(anyDuplicated(tiles), 0L)
})
