# The parts that figures of periods share: axes, colours, labels at the lines'
# ends.

period_axis <- function(calendar) {
  expand <- ggplot2::expansion(mult = c(0.02, 0.02))
  if (by_clock(calendar)) {
    return(
      ggplot2::scale_x_datetime(
        labels = time_labels, timezone = calendar$zone, expand = expand
      )
    )
  }
  ggplot2::scale_x_date(labels = date_labels, expand = expand)
}

# As coarse as the marks allow, but never without the year. Marks outside the
# axis are NA.
date_labels <- function(dates) {
  known <- dates[!is.na(dates)]
  first_of <- function(unit) all(period_of(known, unit) == known)
  as_coarse <- Find(first_of, c("year", "month"), nomatch = "day")
  period_label(dates, calendar(as_coarse))
}

# Days where every mark is at midnight, else the time of day below it.
time_labels <- function(instants) {
  clock <- format(instants, "%H:%M")
  label <- day_label(as.Date(instants, tz = attr(instants, "tzone")))
  if (all(clock == "00:00", na.rm = TRUE)) {
    label
  } else {
    ifelse(is.na(label), NA, paste0(clock, "\n", label))
  }
}

# The axis of values, which starts at zero where those are amounts, with room
# below and above them as shares of its length.
amount_axis <- function(
  zero, labels = scales::label_comma(), room = c(0.02, 0.06)
) {
  list(
    if (zero) ggplot2::expand_limits(y = 0),
    ggplot2::scale_y_continuous(
      labels = labels, expand = ggplot2::expansion(mult = room)
    )
  )
}

# The colours of two sorts of marks.
teal_and_orange <- function(teal, orange, of = "colour") {
  colours <- stats::setNames(house_colours[1:2], c(teal, orange))
  ggplot2::scale_discrete_manual(of, values = colours)
}

not_from_zero <- "The value axis does not start at zero."

figure_labels <- function(unit) {
  switch(
    unit %||% "", "%" = percent_labels,
    return = function(y) percent_labels(100 * y),
    points = function(y) ifelse(y == 0, "0", sprintf("%+g pp", y)),
    share = scales::label_percent(), scales::label_comma()
  )
}

# Ticks of an axis that reaches below zero for labels alone stop at zero.
breaks_within <- function(figures) {
  below <- any(figures < 0, na.rm = TRUE)
  function(limits) {
    breaks <- scales::extended_breaks()(limits)
    if (below) breaks else breaks[breaks >= 0]
  }
}

percent_labels <- function(y) ifelse(y == 0, "0%", sprintf("%+g%%", y))

# The panels whose axis starts at zero: those of flows, and those of levels
# where zero is not far off from the values.
panels_from_zero <- function(x, data) {
  kind <- vapply(
    facts(x)$measures[x$measure], function(measure) measure$kind, ""
  )
  Filter(function(panel) {
    here <- data$panel == panel & !is.na(data$figure)
    figures <- data$figure[here]
    any(kind[here] == "flow") || length(figures) == 0 ||
      min(figures) < 0.5 * max(figures)
  }, levels(data$panel))
}

# Named by line. Lines that are not brought out share a light grey; the others
# take the house colours in turn, in each panel anew, so that one series has one
# colour in all of them.
line_colours <- function(data) {
  colours <- rep("#B9B9B9", nlevels(data$line))
  names(colours) <- levels(data$line)
  for (panel in levels(data$panel)) {
    lifted <- as.character(unique(data$line[data$lifted & data$panel == panel]))
    colours[lifted] <- rep_len(house_colours, length(lifted))
  }
  colours
}

# The steps of lines from value to value, as segments, `dashed` to, from and
# between those of some standings.
steps_of_lines <- function(data, standings) {
  from <- data[-nrow(data), ]
  to <- data[-1, ]
  step <- from$line == to$line & !is.na(from$figure) & !is.na(to$figure)
  dashed <- from$standing %in% standings | to$standing %in% standings
  data.frame(
    from[step, ], period_to = to$period[step], figure_to = to$figure[step],
    dashed = dashed[step]
  )
}

dashed_steps <- function(data, standings) {
  steps <- steps_of_lines(data, standings)
  steps[steps$dashed, ]
}

steps_layer <- function(steps, linetype, faint) {
  if (NROW(steps) > 0) {
    ggplot2::geom_segment(
      data = steps, ggplot2::aes(
        xend = .data$period_to, yend = .data$figure_to
      ), linetype = linetype,
      linewidth = if (faint) 0.5 else 0.8, alpha = if (faint) 0.7 else 1
    )
  }
}

# The lines that have more than one period.
of_several <- function(data) {
  data[
    data$line %in% data$line[duplicated(data$line)],
  ]
}

# Values with none beside them, which a line would not show.
lonely_points <- function(data) {
  known <- !is.na(data$figure)
  same_line <- data$line[-1] == data$line[-nrow(data)]
  before <- c(FALSE, known[-nrow(data)] & same_line)
  after <- c(known[-1] & same_line, FALSE)
  data[known & !before & !after, ]
}

# Each line's name at its last figure. A line that is the only one of its panel
# is named by the panel. `called` gives the names of the `ends`.
line_labels <- function(
  data, log = FALSE, called = function(ends) as.character(ends$line)
) {
  known <- data[data$lifted & !is.na(data$figure), ]
  lines <- unique(data[c("panel", "line")])
  known <- known[known$panel %in% lines$panel[duplicated(lines$panel)], ]
  ends <- known[rev(!duplicated(rev(paste(known$panel, known$line)))), ]
  if (nrow(ends) == 0) {
    return(NULL)
  }
  ends$period <- max(data$period)
  ends$called <- called(ends)
  list(
    names_at_ends(
      ends, "figure", "called", 0.012 * as.numeric(diff(range(data$period))),
      split(
        if (log) log10(data$figure) else data$figure, as.character(data$panel)
      ),
      size = 3.6, panel = "panel"
    ),
    ggplot2::coord_cartesian(clip = "off"),
    ggplot2::theme(
      plot.margin = ggplot2::margin(
        8, 8 + 6.5 * max(nchar(short_in_middle(ends$called))), 8, 8
      )
    )
  )
}

# What lines are called where their panel says, or does not say, the measure.
names_in_panels <- function(ends, x) {
  keys <- vctrs::vec_slice(keys_of(x), ends$row)
  series <- keys[facts(x)$series]
  if (length(series) == 0) {
    return(measures_in_words(keys$measure, facts(x)))
  }
  measures <- tapply(keys$measure, droplevels(ends$panel), function(measure) {
    length(unique(measure))
  })
  ifelse(
    measures[as.character(ends$panel)] == 1, names_of_lines(series),
    words_of_lines(x)[names_of_lines(keys, TRUE)]
  )
}

check_highlight <- function(highlight, lines) {
  if (length(setdiff(highlight, lines)) > 0) {
    abort_backfill(
      "argument",
      "`highlight` names {in_words(setdiff(highlight, lines))}, which is not a",
      "series.",
      i = "The series are {in_words(lines)}."
    )
  }
}

# Whether amounts are drawn, whose axis starts at zero.
all_flows <- function(measures) {
  all(vapply(
    measures, function(measure) measure$kind == "flow", NA
  ))
}

# Whether values themselves are drawn that are amounts.
amounts_from_zero <- function(about, values) {
  all_flows(about$measures) && is.null(about$unit) && all(values >= 0)
}

# What a point tells under the pointer, in lines: its series and period, its
# figures by name, and how it stands.
told_of_points <- function(line, label, figures, standing) {
  parts <- Map(function(text, name) {
    ifelse(is.na(text), "", paste0("\n", name, ": ", trimws(text)))
  }, figures, names(figures))
  standing <- as.character(standing)
  label <- labels_in_words(unique(label))[match(label, unique(label))]
  ends <- ifelse(nzchar(standing), paste0("\n", standing), "")
  do.call(paste0, c(
    list(as.character(line), "\n", label), unname(parts), list(ends)
  ))
}

# What the point of each row tells.
told_of_rows <- function(data, x, of) {
  role <- facts(x)
  figures <- format_cells(
    data$figure, role$added[[of]]$unit, x$measure[data$row]
  )
  told_of_points(
    data$line, period_label(data$period, role$calendar),
    stats::setNames(list(figures), gsub("_", " ", of)), data$standing
  )
}
