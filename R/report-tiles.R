# The latest whole value of each series, in large: what it is, how it changed,
# how it stands, and a small line of the last periods.

most_tiles <- 12

# The first table of periods that few series make up.
tiles_of <- function(results) {
  fit <- Filter(function(x) {
    is_periods(x) && !inherits(x, "backfill_projection") && nrow(x) > 0 &&
      nrow(unique(keys_of(x))) <= most_tiles
  }, results)
  if (length(fit) > 0) latest_figures(fit[[1]])
}

# One row per series: line and its title in words, label (of its latest whole
# period), value, unit, standing, step and year (growth in percent, or NA),
# later (a later period that is partial, or NA), and the last values of the line
# as a list.
latest_figures <- function(x) {
  x <- x[facts(x)$needed] # what was added would be in the way of the growth
  step <- growth_for_tile(x, NULL)
  year <- growth_for_tile(x, "1 year")
  along <- along_series(x, "value")
  rows <- split(along$order, along$series)
  whole <- replace(x$value, !x$standing %in% c("complete", "imputed"), NA)
  lines <- line_names(x)
  titles <- titles_of_tiles(keys_of(x), facts(x))
  calendar <- facts(x)$calendar
  found <- lapply(rows, function(at) {
    known <- at[!is.na(whole[at])]
    if (length(known) == 0) {
      return(NULL)
    }
    last <- known[[length(known)]]
    later <- at[x$period[at] > x$period[[last]]]
    later <- later[x$standing[later] %in% "partial"]
    new_rows(
      line = lines[[last]], title = titles[[last]],
      label = period_label(x$period[[last]], calendar),
      value = x$value[[last]], standing = as.character(x$standing[[last]]),
      unit = facts(x)$measures[[x$measure[[last]]]]$unit %||% "",
      step = step$column[[last]], year = year$column[[last]],
      later = if (length(later) > 0) {
        period_label(x$period[[later[[length(later)]]]], calendar)
      } else {
        NA_character_
      },
      values = list(whole[utils::tail(at, 36)])
    )
  })
  list(
    rows = vctrs::vec_rbind(!!!found), noun = period_noun(calendar),
    yearly = !is.null(year$name) && !identical(year$name, step$name)
  )
}

# "Guest nights of Anchor", or Anchor alone where there is one measure.
titles_of_tiles <- function(keys, about) {
  series <- keys[names(keys) != "measure"]
  measure <- measures_in_words(keys$measure, about)
  if (length(series) == 0) {
    return(sentence_case(measure))
  }
  name <- do.call(paste, c(unname(lapply(series, as.character)), sep = ", "))
  if (several_measures(keys)) {
    sentence_case(paste(measure, "of", name))
  } else {
    name
  }
}

# The growth of the values, as far as it can be computed: list(column, name).
growth_for_tile <- function(x, over) {
  none <- list(column = rep(NA_real_, nrow(x)), name = NULL)
  tryCatch(
    {
      grown <- if (is.null(over)) add_growth(x) else add_growth(x, over)
      name <- setdiff(names(grown), names(x))
      list(column = grown[[name]], name = name)
    },
    backfill_error = function(cnd) none
  )
}

html_of_tiles <- function(latest) {
  if (nrow(latest$rows) == 0) {
    return("<p>No series has a whole period yet.</p>")
  }
  each <- lapply(seq_len(nrow(latest$rows)), function(i) {
    html_of_tile(latest$rows[i, ], latest)
  })
  c("<ul class=\"tiles\">", unlist(each), "</ul>")
}

html_of_tile <- function(tile, latest) {
  change <- c(
    change_in_words(tile$step, paste("the", latest$noun, "before")),
    if (latest$yearly) change_in_words(tile$year, "a year before")
  )
  c(
    "<li class=\"tile\">", sprintf(
      "<h3 data-series=\"%s\">%s</h3>", escaped(tile$line, TRUE),
      escaped(tile$title)
    ),
    sprintf(
      "<p class=\"large\">%s <span>%s</span></p>",
      escaped(trimws(format_figures(tile$value))), escaped(tile$unit)
    ),
    sprintf(
      "<p>%s, %s</p>", escaped(labels_in_words(tile$label)),
      escaped(tile$standing)
    ),
    sprintf("<p>%s</p>", escaped(change)),
    if (!is.na(tile$later)) {
      sprintf("<p class=\"later\">%s is partial.</p>", escaped(
        labels_in_words(tile$later)
      ))
    },
    small_line(tile$values[[1]]), "</li>"
  )
}

change_in_words <- function(percent, than) {
  if (!is.na(percent)) sprintf("%s on %s", format_cells(percent, "%"), than)
}

# A line of 120 by 30, broken where there is no value.
small_line <- function(values) {
  known <- which(!is.na(values))
  if (length(known) < 2) {
    return(NULL)
  }
  span <- range(values, na.rm = TRUE)
  x <- 2 + 116 * (seq_along(values) - 1) / (length(values) - 1)
  y <- 28 - 26 * (values - span[[1]]) / max(diff(span), 1e-300)
  after_gap <- !(known - 1) %in% known
  path <- sprintf(
    "%s%.1f %.1f", ifelse(after_gap, "M", "L"), x[known], y[known]
  )
  last <- known[[length(known)]]
  sprintf(
    paste0(
      "<svg viewBox=\"0 0 120 30\" preserveAspectRatio=\"xMinYMid\"",
      " aria-hidden=\"true\"><path d=\"%s\"/>",
      "<circle cx=\"%.1f\" cy=\"%.1f\" r=\"2.4\"/></svg>"
    ),
    paste(path, collapse = " "), x[[last]], y[[last]]
  )
}
