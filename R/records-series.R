# Which series each row belongs to: `names` has a row per series in the order of
# their names (in the C locale, so that it is the same everywhere), `index` the
# number of that row for each record.
series_index <- function(x, series) {
  if (length(series) == 0) {
    return(list(
      names = vctrs::data_frame(.size = 1L), index = rep(1L, nrow(x))
    ))
  }
  columns <- as.list(x)[series]
  if (length(series) == 1 && is.character(columns[[1]])) {
    distinct <- distinct_texts_cpp(columns[[1]])
    index <- distinct$at
    names <- vctrs::new_data_frame(stats::setNames(list(distinct$text), series))
  } else {
    index <- as.integer(vctrs::vec_group_id(vctrs::new_data_frame(columns)))
    names <- vctrs::vec_slice(
      vctrs::new_data_frame(columns), !duplicated(index)
    )
  }
  rank <- do.call(order, c(unname(as.list(names)), method = "radix"))
  if (is.unsorted(rank)) {
    renumber_cpp(index, order(rank))
  }
  list(names = vctrs::vec_slice(names, rank), index = index)
}

# The columns that results have of their own, those of groups by a position
# among them. A series column of such a name would stand twice in them.
result_columns <- c(
  "period", "measure", "value", "standing", "n", "coverage", "reason",
  "imputed", "effect", "estimate", "joint_p", "calendar_adjusted", "growth",
  "share", "rebased", "running_total", "smoothed",
  "remainder", "adjusted", "reseasonalised", "per_day", "anomaly", "band",
  "records", "rank", "before", "change", "percent", "from", "to", "first",
  "last", "position", "index", "sd", "lowest", "highest", "disagree",
  "ratios", "bridged", "highest_at", "highest_times", "lowest_at",
  "lowest_times", "removed", "lag", "lags", "cycle", "cycles", "coefficient",
  "pairs", "products", "wider", "lower", "upper", "outside",
  "partial_coefficient", "frequency", "p", "expected", "strongest",
  "seasonal", "hidden", "around_trend", "verdict", "base", "baseline",
  "n_prior",
  "deviation", "score", "flag", "flagged", "direction", "judgement", "kind",
  "size", "largest", "largest_at", "periods", "place", "column", "given",
  "lacking", "mean", "row", "turn", "spell", "rise", "start", "end", "slope",
  "slope_se", "r_squared", "autocorrelation", "n_effective", "mae", "mape",
  "after", "age", "apart", "around", "around_band", "around_beside",
  "average_end", "average_onset", "block", "blocks", "carried",
  "centred_average", "constant", "depth", "difference", "drift_f", "drift_p",
  "drift_p_other", "against", "earliest_end", "earliest_onset", "end_sd",
  "explained", "fence", "figure", "first_record", "fitted", "formula",
  "groups", "held", "iqr", "kurtosis", "last_record", "late", "latest_end",
  "latest_onset", "left", "ljung_box", "ljung_box_lags", "ljung_box_p",
  "lower_quartile", "mae_last_cycle", "mae_other", "mape_last_cycle",
  "mape_other", "mean_periods", "median", "missing", "missed_growth",
  "missed_level", "missed_line", "missed_recent", "normaliser",
  "normality_p", "onset", "onset_sd", "outliers", "outside_p", "own",
  "own_band", "own_beside", "own_wider", "own_pairs", "partial", "past_error",
  "past_errors", "percent_per_year", "positions_f", "positions_p",
  "projected", "range_after", "range_before", "ranks_h", "memory", "ranks_p",
  "season_p", "seen_in", "ratio", "raw_index", "reach", "return", "right",
  "running", "sd_after", "sd_before", "season", "shifts", "side", "skewness",
  "slope_per_year", "step", "taken", "total", "twice_below", "upper_quartile",
  "variance", "worked", "year", "year_before", "year_change", "year_percent",
  "years", "revision", "changes", "change_revision", "usual_change",
  "sign_held", "first_mean", "second_mean", "above", "below", "kept",
  "local_line", "overall_average", positions_known
)

# One rule, held from reading on: such a column is renamed, and the account says
# so.
renamed_series <- function(series) {
  taken <- series %in% result_columns
  replace(series, taken, paste0(series[taken], "_", recycle0 = TRUE))
}

renamed_note <- function(series) {
  taken <- series[series %in% result_columns]
  if (length(taken) > 0) {
    sprintf("%s renamed, as results have columns of that name: %s.",
            if (length(taken) == 1) {
              "A series column is"
            } else {
              "Series columns are"
            },
            in_words(sprintf(
              "%s is now %s", quoted(taken), quoted(renamed_series(taken))
            )))
  }
}

check_renamed <- function(names, series) {
  twice <- intersect(names[duplicated(names)], renamed_series(series))
  if (length(twice) > 0) {
    abort_backfill(
      "column",
      "The series column {quoted(sub('_$', '', twice[[1]]))} cannot be renamed",
      "{quoted(twice[[1]])}, as there is such a column already.",
      i = "Results have a column of the former name.",
      ">" = "Rename one of the two."
    )
  }
}

# Numbers that name series are names, as text in full: 1e5 and 100,000 would be
# two of one, and two long ones the same.
names_as_text <- function(data, columns) {
  for (name in columns) {
    x <- data[[name]]
    if (inherits(x, "integer64")) {
      need_package("bit64", "to read 64-bit integers")
      data[[name]] <- bit64::as.character.integer64(x)
    } else if (is.numeric(x) && !is.object(x)) {
      data[[name]] <- digits_of(x)
    }
  }
  data
}

digits_of <- function(x) {
  each <- unique(x)
  text <- vapply(each, function(one) {
    if (is.na(one)) NA_character_ else
      plain_format(one, digits = 15, scientific = FALSE, trim = TRUE)
  }, "")
  text[match(x, each)]
}
