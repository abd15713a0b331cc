# How whole each period is: standings by coverage, of groups by those of their
# series.

# How whole the cells of each group are: `standing` (code), `n` and `coverage`.
# `marks` says which cells hold more or less than their own (`partial`) and how
# many slots in them were `imputed`; `zero` that silence means zero.
judge_cells <- function(cells, frame, measure, marks = NULL, zero = FALSE) {
  enough <- enough_of(frame$enough, measure)
  judged <- judge_cells_cpp(
    cells$slots, cells$records, as.double(frame$expected), frame$reached,
    enough, zero
  )
  standing <- judged$standing
  if (!is.null(marks)) {
    short <- standing == 2L | standing == 3L
    filled <- (cells$slots + marks$imputed) / frame$expected >= enough &
      marks$imputed > 0
    standing[standing == 3L & marks$imputed > 0] <- 2L
    standing[which(filled & short)] <- 4L
    standing[marks$partial & standing == 1L] <- 2L
  }
  if (!zero) standing <- with_cut(standing, judged$coverage, frame$cut)
  join_judged(
    list(
      standing = standing, n = cells$records, coverage = judged$coverage,
      slots = cells$slots
    ),
    frame
  )
}

# A ratio is as whole as the less whole of its parts.
join_parts <- function(of, per) {
  worse <- pmax(
    match(of$standing, whole_order), match(per$standing, whole_order)
  )
  list(
    standing = whole_order[worse], n = of$n,
    coverage = pmin(of$coverage, per$coverage)
  )
}

# Codes of standings from the most to the least whole: complete, imputed,
# partial, empty.
whole_order <- c(1L, 4L, 2L, 3L)

# A part of the table: the columns of one measure.
new_part <- function(value, judged) {
  vctrs::data_frame(
    value = value, standing = structure(
      judged$standing, levels = standings, class = "factor"
    ), n = judged$n,
    coverage = as.double(judged$coverage)
  )
}

# A group is whole where each of its series is; one without a record is not,
# unless it comes irregularly.
join_judged <- function(judged, frame) {
  if (frame$groups$count == 0) {
    return(judged)
  }
  of_standing <- function(codes) add_groups(judged$standing %in% codes, frame)
  regular <- rep(!frame$irregular, each = frame$columns$count)
  broken <- of_standing(2L) + add_groups(judged$standing == 3L & regular, frame)
  standing <- rep(1L, length(broken))
  standing[of_standing(4L) > 0] <- 4L
  standing[broken > 0] <- 2L
  standing[
    of_standing(3L) == add_groups(rep(1, length(judged$standing)), frame)
  ] <- 3L
  slots <- add_groups(judged$slots, frame)
  expected <- add_groups(
    rep_len(frame$expected, length(judged$standing)), frame
  )
  list(
    standing = standing, n = as.integer(add_groups(judged$n, frame)),
    coverage = share_covered(slots, expected), slots = slots
  )
}

# NA where nothing was expected.
share_covered <- function(slots, expected) {
  ifelse(
    expected > 0, slots / expected, NA_real_
  )
}

# A group is not whole where a part of its value is not known, or one of its
# series has a value and no weight.
mark_lacking <- function(judged, lacking, measure, cells, frame, pooled) {
  weight <- pooled[[measure$from]]
  if (frame$groups$count > 0 && is.numeric(weight)) {
    lacking <- add_groups(cells$records > 0 & is.na(weight), frame) > 0
  }
  if (!is.null(lacking)) {
    judged$standing[lacking & judged$standing != 3L] <- 2L
  }
  judged
}
