# NetCDF grids by the CF conventions: a value per time, latitude and longitude.

read_grid <- function(file, form) {
  need_package("ncdf4", "to read NetCDF")
  grid <- of_grid(ncdf4::nc_open(file$path), file)
  on.exit(ncdf4::nc_close(grid))
  time <- grid_time(grid, file)
  names <- form$measures %||% names(Filter(
    function(var) time$name %in% vapply(var$dim, `[[`, "", "name"), grid$var
  ))
  absent <- setdiff(names, names(grid$var))
  if (length(absent) > 0) {
    abort_backfill(
      "column",
      "{basename(file$shown)} has no variable {in_words(quoted(absent))},",
      "which `measures` names.",
      i = "Its variables are {in_words(quoted(names(grid$var)))}."
    )
  }
  parts <- lapply(stats::setNames(nm = names), function(name) {
    read_variable(grid, name, time, form, file)
  })
  rows <- length(parts[[1]]$value)
  places <- parts[[1]]$places
  times <- length(time$when)
  data <- c(
    stats::setNames(list(rep(time$when, rows / times)), time$name),
    if (is.data.frame(places)) lapply(as.list(places), rep, each = times),
    lapply(parts, `[[`, "value")
  )
  raw <- new_raw(
    data, rows, list(names(data)), file$shown,
    function(rows) (rows - 1L) %% times + 1L,
    notes = c(time$note, unique(unlist(lapply(parts, `[[`, "note"))))
  )
  c(
    raw,
    list(
      when = time$name, kept = time$kept,
      series = if (is.data.frame(places)) names(places)
    )
  )
}

# What the reader of grids gives. What fails in it is printed to standard output
# too, where only data belong.
of_grid <- function(reading, file) {
  utils::capture.output(found <- tryCatch(reading, error = identity))
  if (inherits(found, "error")) {
    abort_backfill(
      "file", "{basename(file$shown)} cannot be read as NetCDF.",
      i = "Its reader says: {sub('[.]?\n.*', '', conditionMessage(found))}."
    )
  }
  found
}

# One variable: its values by time (and by place where each cell is a series),
# unpacked as the file says.
read_variable <- function(grid, name, time, form, file) {
  variable <- grid$var[[name]]
  role <- grid_roles(variable, name, time, file)
  axes <- axes_of(variable, role)
  if (is.numeric(form$cells) && length(form$cells) == 2) {
    return(one_cell(grid, variable, role, axes, form, file))
  }
  all <- length(role)
  found <- of_grid(
    matrix_by_time(
      grid, variable, role, rep(1, all), rep(-1, all), form$missing
    ),
    file
  )
  coded <- coded_note(name, found$coded, length(found$values), file)
  places <- expand.grid(lapply(axes[c("north", "east")], `%||%`, NA_real_))
  names(places) <- axes$names
  if (identical(form$cells, "each") && nrow(places) > 1) {
    each <- as.numeric(t(found$values))
    return(list(value = each, places = places, note = coded))
  }
  inside <- cells_inside(form$cells, places, axes, name, file)
  list(
    value = mean_of_cells(found$values, axes, inside), places = NULL,
    note = c(coded, cells_note(
      name, found$values[inside, , drop = FALSE], file
    ))
  )
}

# What each dimension of a variable is.
grid_roles <- function(variable, name, time, file) {
  role <- vapply(variable$dim, grid_role, "", time_name = time$name)
  other <- role == "other" & vapply(variable$dim, `[[`, 0, "len") > 1
  if (!"time" %in% role || any(other)) {
    dims <- vapply(variable$dim, `[[`, "", "name")
    abort_backfill(
      "file",
      "Variable \"{name}\" of {basename(file$shown)} has the dimensions",
      "{in_words(dims)}; expected are time, latitude and longitude."
    )
  }
  role
}

# Of each time, the mean of the cells `inside` by their area.
mean_of_cells <- function(whole, axes, inside) {
  areas <- outer(
    band_widths(axes$north, axes$planar),
    if (axes$planar) {
      band_widths(axes$east, TRUE)
    } else {
      1 + 0 * (axes$east %||% 1)
    }
  )
  weight <- as.vector(areas)
  known <- !is.na(whole) & inside
  value <- colSums(weight * ifelse(known, whole, 0)) / colSums(weight * known)
  value[colSums(known) == 0] <- NA
  value
}

cells_note <- function(name, whole, file) {
  if (nrow(whole) < 2) {
    return()
  }
  gone <- sum(is.na(whole))
  c(
    sprintf(
      "%s is the mean of %s, weighted by their area.", name,
      count_of(nrow(whole), "cell")
    ),
    if (gone > 0) glue(
      "Of {name} in {basename(file$shown)} {thousands(gone)} of",
      "{thousands(length(whole))} cells and times are missing and left out of",
      "the mean."
    )
  )
}

# How many cells hold each code for a missing value.
coded_note <- function(name, coded, cells, file) {
  coded <- coded[coded > 0]
  if (length(coded) > 0) {
    sprintf(
      "Of %s in %s %s of %s cells and times count as missing.", name,
      basename(file$shown),
      in_words(sprintf("%s (%s)", thousands(coded), quoted(names(coded)))),
      thousands(cells)
    )
  }
}

# Degrees, or lengths on a plane.
grid_role <- function(dim, time_name) {
  unit <- tolower(dim$units %||% "")
  name <- tolower(dim$name)
  if (dim$name == time_name) {
    "time"
  } else if (
    grepl("^degrees?_?n", unit) || name %in% c("lat", "latitude", "y")
  ) {
    "north"
  } else if (
    grepl("^degrees?_?e", unit) || name %in% c("lon", "longitude", "x")
  ) {
    "east"
  } else {
    "other"
  }
}

# Where the cells of a variable lie: list(north, east, names, planar), of which
# the first two are NULL where it has no such axis. On a plane, such as a grid
# in metres, they are called y and x.
axes_of <- function(variable, role) {
  axis <- function(which) {
    at <- match(which, role)
    if (!is.na(at)) variable$dim[[at]]
  }
  values <- function(dim) if (!is.null(dim)) as.numeric(dim$vals)
  north <- axis("north")
  planar <- grepl(
    "^(k|c)?m$|^(kilo)?met(er|re)s?$", tolower(north$units %||% "")
  )
  list(
    north = values(north), east = values(axis("east")),
    names = if (planar) c("y", "x") else c("lat", "lon"), planar = planar
  )
}

# list(values, coded): a row per place (latitudes fastest), a column per time;
# and how many there were of each code for a missing value.
matrix_by_time <- function(grid, variable, role, start, count, codes) {
  values <- ncdf4::ncvar_get(
    grid, variable, start = start, count = count, collapse_degen = FALSE,
    raw_datavals = TRUE
  )
  values <- unpack(grid, variable, values)
  number <- code_numbers(codes)
  coded <- stats::setNames(
    integer(length(number)), plain_format(number, trim = TRUE)
  )
  for (i in seq_along(number)) {
    # Of single precision -99.9 is not quite what it is elsewhere.
    here <- which(abs(values - number[[i]]) <= 1e-6 * abs(number[[i]]))
    coded[[i]] <- length(here)
    values[here] <- NA
  }
  order <- c(
    which(role == "north"), which(role == "east"), which(role == "other"),
    which(role == "time")
  )
  values <- aperm(values, order)
  list(
    values = matrix(values, ncol = dim(values)[length(order)]), coded = coded
  )
}

# CF 1.8, section 8.1 and 2.5.1: missing where the stored value is the fill
# value or outside the valid range; else stored x scale_factor + add_offset.
unpack <- function(grid, variable, values) {
  attribute <- function(name) {
    found <- ncdf4::ncatt_get(grid, variable, name)
    if (found$hasatt) as.numeric(found$value)
  }
  for (name in c("_FillValue", "missing_value")) {
    values[values %in% attribute(name)] <- NA
  }
  range <- attribute("valid_range") %||% c(
    attribute("valid_min") %||% -Inf, attribute("valid_max") %||% Inf
  )
  values[!is.na(values) & (values < range[[1]] | values > range[[2]])] <- NA
  values[is.nan(values)] <- NA
  values * (attribute("scale_factor") %||% 1) + (attribute("add_offset") %||% 0)
}
