# `backfill links`: which series move together.

command_links <- function() {
  list(
    name = "links",
    inputs = "FILE...",
    run = run_links,
    about = paste(
      "Roll the dated records of a file up to regular periods, and correlate",
      "each two series with each other. Changes from period to period are",
      "correlated by default, and the sentences say how many pairs chance",
      "alone would show. With --target, rank what moves with one series or",
      "before it. Or, with --as-of, carry series of unlike frequency to",
      "one calendar as they were known then, so that nothing later leaks in."
    ),
    options = c(
      input_options(), options_of_verbs(links_verbs),
      list(pair = cli_option(
        "NAME,NAME", "Draw these two series against each other."
      )),
      without_events(output_options(
        "How the figure is drawn: heat (the default), scatter or matrix."
      ))
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      paste(
        "  backfill links landings.csv --when date --series species --measure",
        "price:level --missing unsold \\"
      ),
      "    --duplicates keep --every month --figure heat.png",
      paste(
        "  backfill links ledger.csv --when period --known entered --series",
        "item --measure value:level --as-of month"
      ),
      paste(
        "  backfill links inns.csv --when month --series inn --measure",
        "guest_nights:flow --method spearman"
      )
    )
  )
}

links_verbs <- list(
  correlations = c(
    "method", "on", "pairs", "confidence", "each", "window",
    within = "by"
  ),
  align_as_of = c(
    "as-of" = "on", delay = "delay", "max-age" = "max_age", "growth"
  ),
  rank_links = c("target", "ahead", "horizons", "second", "pairs"),
  explain_target = c(
    tree = "", "target", "ahead", "horizons", "held", "depth", "least"
  )
)

run_links <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  one_result(options, c("as-of", "target"))
  check_links_options(options)
  if (is_given(options[["as-of"]])) {
    return(run_aligned(options, inputs, format))
  }
  refuse_options(options, "highlight", "only --as-of draws series")
  rolled <- roll_input(options, inputs)
  verb <- verb_of_links(options)
  found <- run_verb(verb, rolled$periods, options, links_verbs[[verb]])
  put_finding(
    found, rolled$aside, format, options,
    before = describe_standing(rolled$periods),
    draw = function() {
      if (verb != "correlations") {
        return(autoplot(found))
      }
      draw_pairs(found, options)
    }
  )
}

verb_of_links <- function(options) {
  if (!is_given(options$target)) {
    "correlations"
  } else if (options$tree) {
    "explain_target"
  } else {
    "rank_links"
  }
}

draw_pairs <- function(found, options) {
  pair <- options$pair
  if (is_given(pair)) {
    pair <- with_spelling("pair", two_names(pair, "pair", "\"cod,ling\""))
    return(autoplot(found, type = "scatter", pair = pair))
  }
  autoplot(found, type = options$type %||% "heat")
}

# Options that one result alone has a use for.
check_links_options <- function(options) {
  refuse_unasked(options, links_verbs["align_as_of"])
  if (!is_given(options$target)) {
    refuse_options(
      options,
      c("tree", "ahead", "horizons", "second", "held", "depth", "least"),
      "there is no target", "Give `--target` too."
    )
  } else {
    refuse_options(
      options, c(
        setdiff(names(option_map(links_verbs$correlations)), "pairs"),
        "type", "pair"
      ),
      "--target ranks changes"
    )
    refuse_options(
      options,
      if (options$tree) c("pairs", "second") else c("held", "depth", "least"),
      if (options$tree) "--tree ranks nothing" else "there is no tree",
      if (options$tree) "Leave it out." else "Give `--tree` too."
    )
  }
  if (is_given(options$pair)) {
    refuse_options(options, "type", "--pair draws a scatter")
    if (is.null(options$figure)) {
      stop_usage(
        "--pair is given, but no figure is drawn.", ">" = "Give `--figure` too."
      )
    }
  }
}

# Of records that say when they were known, these themselves; else the periods
# that they make.
run_aligned <- function(options, inputs, format) {
  refuse_options(
    options, names(option_map(links_verbs$correlations)),
    "--as-of correlates nothing"
  )
  if (is_given(options$known)) {
    refuse_options(
      options, names(rolling_options()),
      "--known carries the records as they are"
    )
    read <- read_and_tell(options, inputs)
    x <- read$records
    aside <- rows_set_aside(x)
  } else {
    rolled <- roll_input(options, inputs)
    x <- rolled$periods
    aside <- rolled$aside
  }
  found <- run_verb("align_as_of", x, options, links_verbs$align_as_of)
  put_finding(found, aside, format, options)
}
