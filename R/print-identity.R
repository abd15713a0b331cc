# What identities say.

#' @export
describe.backfill_identity <- function(x, ..., most = 4) {
  about <- facts(x)
  judged <- x[!is.na(x$held), ]
  broken <- summary(x)
  left <- table(x$reason[is.na(x$held)])
  c(
    sprintf(
      "%s%s holds in %s of %s.", about$identity,
      if (about$tolerance > 0) {
        sprintf(", give or take %s,", plain_format(about$tolerance))
      } else {
        ""
      },
      thousands(sum(judged$held)),
      of_series(
        count_of_periods(nrow(judged), about$calendar),
        vctrs::vec_unique_count(plain_tibble(x)[about$series])
      )
    ),
    if (nrow(broken) > 0) describe_broken(broken, about, most),
    if (length(left) > 0) {
      sprintf(
        "Not judged: %s.",
        in_words(sprintf("%s, as %s", thousands(left), names(left)), most)
      )
    }
  )
}

describe_broken <- function(broken, about, most) {
  whose <- names_of_lines(plain_tibble(broken)[about$series])
  label <- period_label(broken$period, about$calendar)
  by <- format_figures(broken$difference)
  said <- sprintf(
    "%s%s by %s", if (length(whose) > 0) paste0(whose, " ") else "", label,
    with_sign(by, broken$difference)
  )
  sprintf("It is broken in %s.", in_words(said, most))
}

#' @export
describe.backfill_broken <- function(x, ...) {
  if (nrow(x) == 0) {
    sprintf("%s holds wherever it is judged.", facts(x)$identity)
  }
}
