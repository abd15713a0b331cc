# Addresses: fetched to a file first, within limits.

download_limit <- 1024^3 # bytes
silence_limit <- 60      # seconds with fewer than 100 bytes in each
# Seconds for all of it.
fetch_limit <- function() getOption("backfill.fetch_seconds", 3600)

download <- function(address, scratch) {
  need_package("curl", "to read from an address")
  path <- path_for(address, scratch)
  got <- with_bar("Fetching", function(report) fetch(address, path, report))
  address <- without_secrets(address)
  if (!is.null(got$fault)) {
    abort_backfill("file", "{address} cannot be fetched.", i = "{got$fault}")
  }
  if (got$status != 200) {
    abort_backfill(
      "file",
      "{address} cannot be fetched: the server answers with status",
      "{got$status}{if (got$status == 206) ', a part of the file' else ''}."
    )
  }
  check_copied(path, got$size, list(shown = address))
  if (got$size == 0) {
    abort_backfill("file", "{address} is empty.")
  }
  path
}

# Where it is kept. The ending stays, which tells a reader of workbooks what it
# has.
path_for <- function(address, scratch) {
  ending <- regmatches(
    address,
    regexpr("([.][[:alnum:]]{1,8}){1,2}(?=([?#].*)?$)", address, perl = TRUE)
  )
  path <- file.path(tempfile(tmpdir = scratch), paste0("fetched", ending))
  dir.create(dirname(path))
  path
}

# The address, block by block, into the file: list(fault, status, size). Blocks
# reach R one at a time, so it can be interrupted and shows how far it is.
fetch <- function(address, path, report) {
  handle <- curl::new_handle(
    url = address, connecttimeout = 15, low_speed_time = silence_limit,
    low_speed_limit = 100, timeout = fetch_limit(),
    maxfilesize_large = download_limit, followlocation = TRUE, maxredirs = 5
  )
  to <- file(path, "wb")
  on.exit(close(to))
  got <- new.env(parent = emptyenv())
  got$size <- 0
  pool <- curl::new_pool()
  curl::multi_add(
    handle, pool = pool,
    done = function(response) got$status <- response$status_code,
    fail = function(message) got$fault <- message,
    data = function(block, ...) {
      got$size <- got$size + length(block)
      if (got$size > download_limit) {
        got$fault <- "It is larger than 1 GiB."
        curl::multi_cancel(handle)
        return()
      }
      writeBin(block, to)
      if (!is.null(report)) {
        got$whole <- got$whole %||% announced_size(handle)
        report(min(got$size / got$whole, 1))
      }
    }
  )
  tryCatch(
    curl::multi_run(pool = pool),
    error = function(cnd) got$fault <- conditionMessage(cnd)
  )
  list(fault = got$fault, status = got$status, size = got$size)
}

# Infinite where the server does not say.
announced_size <- function(handle) {
  headers <- curl::parse_headers(curl::handle_data(handle)$headers)
  size <- grep("^content-length:", headers, ignore.case = TRUE, value = TRUE)
  if (length(size) == 0) {
    Inf
  } else {
    as.numeric(sub(".*:\\s*", "", size[[length(size)]]))
  }
}
