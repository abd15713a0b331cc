# `backfill links`: which series move together.

command_links <- function() {
  list(
    name = "links",
    inputs = "FILE...",
    run = run_links,
    about = paste(
      "Correlate the changes of each two series, and count what chance would.",
      "Or rank with --target what moves with one series or before it, or",
      "carry with --as-of series of unlike frequency to one calendar as they",
      "were known then, so that nothing later leaks in; with both, what was",
      "known then is ranked."
    ),
    options = c(
      input_options(), options_of_verbs(c(links_verbs, returns_verb)),
      list(pair = cli_option(
        "NAME,NAME", "Draw these two series against each other."
      )),
      without_events(output_options(
        "How the figure is drawn: heat (the default), scatter or matrix."
      ))
    ),
    examples = c(
      "backfill links inns.csv --method spearman --figure heat.png",
      "backfill links landings.csv --measure price:level --returns simple",
      "backfill links ledger.csv --known entered --as-of month",
      paste(
        "backfill links ledger.csv --known entered --as-of month",
        "--target \"ice sold\" --ahead 0,1"
      )
    ),
    wants = c(
      "See what moves together" = "links FILE"
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

# What each result uses; a tree is asked for beside its target, and either may
# be of series as they were known.
links_results <- function() {
  of <- lapply(links_verbs, function(map) names(option_map(map)))
  list(
    plain = c(of$correlations, returns_options, "type", "pair"),
    "as-of" = c(of$align_as_of, "highlight"),
    target = c(of$rank_links, of$align_as_of, returns_options),
    tree = c(of$explain_target, of$align_as_of, returns_options)
  )
}

run_links <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  of_target <- given_options(options, c("tree", "target"))
  asked <- result_asked(
    options, links_results(), c(of_target, given_options(options, "as-of"))
  )
  check_links_options(options)
  verb <- switch(
    asked, tree = "explain_target", target = "rank_links",
    "as-of" = "align_as_of", "correlations"
  )
  if (is_given(options[["as-of"]])) {
    return(run_aligned(options, inputs, format, verb))
  }
  rolled <- roll_input(options, inputs)
  looked <- of_returns(rolled$periods, options)
  found <- run_verb(
    verb, looked$periods, options, links_verbs[[verb]], of = looked$of
  )
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

draw_pairs <- function(found, options) {
  pair <- options$pair
  if (is_given(pair)) {
    pair <- with_spelling("pair", two_names(pair, "pair", "\"cod,ling\""))
    return(autoplot(found, type = "scatter", pair = pair))
  }
  autoplot(found, type = options$type %||% "heat")
}

check_links_options <- function(options) {
  if (options$tree && is.null(options$target)) {
    stop_usage(
      "`--tree` is given, but there is no target.",
      ">" = "Give `--target` too."
    )
  }
  refuse_unasked(options, links_verbs["align_as_of"])
  if (is_given(options[["as-of"]])) {
    refuse_options(
      options, returns_options, "--as-of carries values, or their --growth"
    )
  }
  if (is_given(options$pair)) {
    refuse_options(options, "type", "--pair draws a scatter")
    if (is.null(options$figure)) {
      stop_usage(
        "--pair is given, but no figure is drawn.",
        ">" = "Give `--figure` too."
      )
    }
  }
}

# Of records that say when they were known, these themselves; else the periods
# that they make. Of what was known then a target may be ranked or explained.
run_aligned <- function(options, inputs, format, verb) {
  if (is_given(options$known)) {
    refuse_options(
      options, names(rolling_options()),
      "--known carries the records as they are"
    )
    read <- read_and_tell(options, inputs)
    x <- read$records
    aside <- read$aside
  } else {
    rolled <- roll_input(options, inputs)
    x <- rolled$periods
    aside <- rolled$aside
  }
  found <- run_verb("align_as_of", x, options, links_verbs$align_as_of)
  if (verb == "align_as_of") {
    return(put_finding(found, aside, format, options))
  }
  put_finding(
    run_verb(verb, found, options, links_verbs[[verb]]), aside, format, options,
    before = describe(found)
  )
}
