# Addresses: fetched to a file first, within limits.

download_limit <- 1024^3 # bytes
silence_limit <- 60      # seconds with fewer than 100 bytes in each
# Seconds for all of it.
fetch_limit <- function() getOption("backfill.fetch_seconds", 3600)

download <- function(address, scratch, call) {
  need_package("curl", "to read from an address", call)
  # The ending is kept, which tells a reader of workbooks what it has.
  ending <- regmatches(
    address,
    regexpr("([.][[:alnum:]]{1,8}){1,2}(?=([?#].*)?$)", address, perl = TRUE)
  )
  path <- file.path(tempfile(tmpdir = scratch), paste0("fetched", ending))
  dir.create(dirname(path))
  handle <- curl::new_handle(
    connecttimeout = 15, low_speed_time = silence_limit, low_speed_limit = 100,
    timeout = fetch_limit(), maxfilesize_large = download_limit,
    followlocation = TRUE, maxredirs = 5
  )
  to <- file(path, "wb")
  size <- 0
  answer <- NULL
  fault <- NULL
  pool <- curl::new_pool()
  curl::handle_setopt(handle, url = address)
  fetch <- function(report) {
    whole <- NULL
    curl::multi_add(
      handle, pool = pool, done = function(response) answer <<- response,
      fail = function(message) fault <<- message,
      data = function(block, ...) {
        size <<- size + length(block)
        if (size > download_limit) {
          fault <<- "It is larger than 1 GiB."
          curl::multi_cancel(handle)
          return()
        }
        writeBin(block, to)
        if (!is.null(report)) {
          whole <<- whole %||% announced_size(handle)
          report(min(size / whole, 1))
        }
      }
    )
    curl::multi_run(pool = pool)
  }
  tryCatch(
    with_bar("Fetching", fetch),
    error = function(cnd) fault <<- conditionMessage(cnd), finally = close(to)
  )
  address <- without_password(address)
  if (!is.null(fault)) {
    abort_backfill(
      "file", sprintf("%s cannot be fetched.", address),
      i = without_password(fault), call = call
    )
  }
  if (answer$status_code != 200) {
    abort_backfill(
      "file",
      sprintf(
        "%s cannot be fetched: the server answers with status %d%s.", address,
        answer$status_code,
        if (answer$status_code == 206) ", a part of the file" else ""
      ),
      call = call
    )
  }
  check_copied(path, size, list(shown = address), call)
  if (size == 0) {
    abort_backfill("file", sprintf("%s is empty.", address), call = call)
  }
  path
}

# An address, or a text with addresses, without what stands before an @.
without_password <- function(address) {
  gsub(
    "(https?://)[^/?#@ ]*@", "\\1", address
  )
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
