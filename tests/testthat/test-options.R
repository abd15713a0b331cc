# No option is passed over: each changes what comes back, or is refused, alone
# and beside every other one of its command. BACKFILL_PAIRS says how many pairs
# are tried; 0 tries all.

option_values <- list(
  growth = list(
    over = "1 year", as = "difference", forward = NULL, "max-age" = "2",
    returns = "log", total = "drawdown", "longest-return" = "3", lagged = "2",
    "running-total" = "year", running = "highest", "running-reset" = "year",
    rebased = "100", at = "2028-05", share = "shop",
    basket = "north=0.5", rebalance = "quarter", bands = "-5,0,5",
    "band-names" = "a,b,c,d", "bands-scale" = "sd", "bands-closed" = "right",
    "count-bands" = NULL, rank = "3", order = "falls", stretch = "4",
    "per-series" = NULL, "rank-within" = "year"
  ),
  moving = list(
    window = "5", stat = "median", align = "centred", weights = "1,2,3",
    present = "0.5", "half-life" = "3", alpha = "0.3"
  ),
  describe = list(
    groups = "quarter", probs = "0.1,0.9", latest = NULL, on = "2029-03-05",
    highest = "1", differ = NULL, stat = "median", block = "2",
    confidence = "0.8", draws = "99", seed = "7", shifts = NULL, most = "3",
    least = "4", season = "no", line = NULL, identity = "cost = 0",
    tolerance = "5", outliers = NULL, broken = NULL, verdict = NULL,
    returns = "log", "longest-return" = "3"
  ),
  season = list(
    cycle = "6", form = "additive", method = "overall average",
    combine = "median", normalise = "no", tests = NULL, worksheet = NULL,
    averages = NULL, adjust = NULL, "put-back" = "value", trend = NULL,
    project = "6", base = "line", confidence = "0.8", profile = "month",
    apart = "year", stat = "median", holds = "0.5", grid = "month,year",
    spells = NULL, reach = "3", seed = "7"
  ),
  lags = list(
    lags = "4", partials = "no", confidence = "0.8", limits = "large lag",
    remainder = NULL, cross = "north,south", on = "values", cycles = NULL,
    verdict = NULL
  ),
  flags = list(
    against = "a cycle before", beyond = "percent:5", "beyond-all" = NULL,
    direction = "up", floor = "30", last = "6", need = "4", stat = "median",
    cycle = "6", form = "additive", "exclude-flagged" = NULL,
    "spread-of" = "6", flagged = NULL, episodes = NULL, since = "2030-01-01",
    anomaly = "month", standardised = NULL, smooth = "3", running = NULL,
    reference = "2028-01-01,2029-12-31", turning = "4"
  ),
  links = list(
    method = "spearman", on = "values", pairs = "40", confidence = "0.8",
    each = "year", window = "12", within = "shop", "as-of" = "month",
    delay = "10", "max-age" = "5", growth = "1 year", target = "north",
    ahead = "0,1", horizons = "1,3", second = "south", tree = NULL,
    held = "0.4", depth = "2", least = "4", returns = "log",
    "longest-return" = "3"
  ),
  periods = list(
    over = "1 year", window = "5", align = "centred", wide = "series",
    "wide-partial" = "empty", gaps = NULL, leaders = "latest",
    "leaders-count" = "1"
  )
)

# Those that only bound what there may be: how far back a base may lie, how many
# pairs or periods are needed.
bounds_only <- c("max-age", "longest-return", "pairs", "least")

shops <- function() {
  withr::local_seed(17)
  month <- seq(as.Date("2027-01-01"), by = "month", length.out = 48)
  season <- 1 + 0.4 * sin(2 * pi * seq_len(48) / 12)
  rows <- lapply(c("north", "south", "west"), function(shop) {
    # What only a season has in common is not judged.
    if (shop == "west") season <- 1
    data.frame(
      month, shop,
      sold = stats::rpois(48, 400 * season * c(rep(1, 30), rep(1.3, 18))),
      price = round(20 * exp(cumsum(stats::rnorm(48, 0.003, 0.05))), 2)
    )
  })
  do.call(rbind, rows)[-c(20, 71), ]
}

# What a command comes to: its status, the file that it writes and what it says.
outcome_of_options <- function(command, given, folder) {
  kind <- if (command == "growth") "price:level" else "sold:flow"
  out <- file.path(folder, "out.csv")
  unlink(out)
  said <- utils::capture.output(type = "message", {
    status <- backfill:::run_command_line(c(
      command, file.path(folder, "shops.csv"), "--when", "month", "--series",
      "shop", "--measure", kind, "--every", "month", given, "--out", out
    ))
  })
  list(
    status = status, said = said,
    made = if (file.exists(out)) unname(tools::md5sum(out))
  )
}

as_given <- function(name, values) c(paste0("--", name), values[[name]])

# It ends well or is refused, and what ends well is no longer as before.
expect_meant <- function(before, after, what) {
  expect_true(after$status %in% c(0L, 2L), label = paste(
    what, paste(after$said, collapse = " ")
  ))
  if (after$status == 0L) {
    expect_false(identical(before, after), label = paste(what, "is ignored"))
  }
}

# What each option of a command comes to alone.
tried_alone <- function(command, folder) {
  values <- option_values[[command]]
  plain <- outcome_of_options(command, NULL, folder)
  expect_identical(plain$status, 0L, label = command)
  lapply(stats::setNames(nm = names(values)), function(name) {
    one <- outcome_of_options(command, as_given(name, values), folder)
    if (!name %in% bounds_only) {
      expect_meant(plain, one, paste(command, name))
    }
    one
  })
}

test_that("each option changes the result or is refused, alone and in pairs", {
  folder <- withr::local_tempdir()
  utils::write.csv(
    shops(), file.path(folder, "shops.csv"), row.names = FALSE
  )
  commands <- names(option_values)
  single <- lapply(stats::setNames(nm = commands), tried_alone, folder)
  pairs <- unlist(lapply(commands, function(command) {
    utils::combn(names(option_values[[command]]), 2, function(two) {
      list(command = command, two = two)
    }, simplify = FALSE)
  }), recursive = FALSE)
  expect_gt(length(pairs), 1000)
  asked <- as.integer(Sys.getenv("BACKFILL_PAIRS", "15"))
  if (asked > 0) {
    pairs <- withr::with_seed(3, sample(pairs, asked))
  }
  for (pair in pairs) {
    both <- outcome_of_options(pair$command, unlist(lapply(
      pair$two, as_given, option_values[[pair$command]]
    )), folder)
    for (k in which(!pair$two %in% bounds_only)) {
      other <- pair$two[[3 - k]]
      expect_meant(
        single[[pair$command]][[other]], both,
        paste(pair$command, pair$two[[k]], "beside", other)
      )
    }
  }
})

test_that("a default that the help of an option names is the function's", {
  known <- backfill:::verbs()
  told <- 0
  for (verb in names(known)) for (name in names(known[[verb]]$arguments)) {
    about <- known[[verb]]$arguments[[name]]$about
    own <- formals(getExportedValue("backfill", verb))[name]
    if (!is.character(own[[1]]) || !grepl("(the default", about, fixed = TRUE))
      next
    told <- told + 1
    expect_match(
      about, sprintf("%s\"?( over a cycle)? \\(the default", own[[1]]),
      label = paste(verb, name)
    )
  }
  expect_gt(told, 15)
})
