# The place of a cell in a grid, and how much of the whole it is.

# How wide the cells of an axis are, whose borders lie midway between them. The
# area of a band of latitude is as the difference of the sines of its borders.
band_widths <- function(at, planar) {
  n <- length(at)
  if (n < 2) {
    return(1)
  }
  middle <- (at[-1] + at[-n]) / 2
  border <- c(2 * at[[1]] - middle[[1]], middle, 2 * at[[n]] - middle[[n - 1]])
  if (!planar) {
    border <- sin(pmin(pmax(border, -90), 90) * pi / 180)
  }
  abs(diff(border))
}

one_cell <- function(grid, variable, role, axes, form, file) {
  near <- nearest_cell(form$cells, axes, variable$name, file)
  start <- rep(1, length(role))
  count <- rep(-1, length(role))
  for (axis in names(near)) {
    start[role == axis] <- near[[axis]]
    count[role == axis] <- 1
  }
  found <- of_grid(
    matrix_by_time(grid, variable, role, start, count, form$missing), file
  )
  list(value = as.numeric(found$values), places = NULL, note = c(
    sprintf(
      "%s is that of the cell at %s, %s.", variable$name,
      plain_format(axes$north[[near[["north"]]]]),
      plain_format(axes$east[[near[["east"]]]])
    ),
    coded_note(variable$name, found$coded, length(found$values), file)
  ))
}

# Which cell lies nearest to the place asked for.
nearest_cell <- function(place, axes, name, file) {
  check_has_places(axes, name)
  away <- list(
    north = abs(axes$north - place[[1]]), east = axes$east - place[[2]]
  )
  # Longitudes come from 0 to 360 or from -180 to 180.
  away$east <- abs(
    if (axes$planar) away$east else (away$east + 180) %% 360 - 180
  )
  reach <- if (axes$planar) 0 else 0.5
  step <- c(
    max(abs(diff(axes$north)), reach), max(abs(diff(axes$east)), reach)
  )
  if (any(vapply(away, min, 0) > step)) {
    stop_outside(place, axes, file)
  }
  vapply(away, which.min, 1L)
}

# Whether the middle of each cell lies in the box that is asked for, from its
# south to its north and from its west eastward to its east; all do where none
# is.
cells_inside <- function(box, places, axes, name, file) {
  if (!is.numeric(box)) {
    return(rep(TRUE, nrow(places)))
  }
  check_has_places(axes, name)
  east <- places[[2]] - box[[3]]
  width <- box[[4]] - box[[3]]
  if (!axes$planar) {
    east <- east %% 360
    width <- if (width < 360) width %% 360 else 360
  }
  inside <- places[[1]] >= box[[1]] & places[[1]] <= box[[2]] &
    east >= 0 & east <= width
  if (!any(inside)) {
    stop_outside(box, axes, file)
  }
  inside
}

check_has_places <- function(axes, name) {
  if (is.null(axes$north) || is.null(axes$east)) {
    abort_backfill(
      "argument",
      "`cells` names a place, but \"{name}\" has no latitude and longitude."
    )
  }
}

stop_outside <- function(place, axes, file) {
  called <- if (axes$planar) axes$names else c("latitude", "longitude")
  cells <- paste(trimws(plain_format(place)), collapse = ", ")
  reach <- function(axis) {
    in_words(vapply(range(axis), plain_format, ""), last = " to ")
  }
  abort_backfill(
    "argument", "`cells` is {cells},",
    if (length(place) == 2) {
      "which lies outside the grid of {basename(file$shown)}."
    } else {
      "a box that has the middle of no cell of {basename(file$shown)}."
    },
    i = "It reaches from {reach(axes$north)} in {called[[1]]} and from",
    "{reach(axes$east)} in {called[[2]]}."
  )
}
