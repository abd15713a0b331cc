# Text files made ready for the readers: decompressed, and in UTF-8.

# The path of the decompressed file.
gunzip <- function(file, scratch) {
  path <- tempfile(tmpdir = scratch)
  from <- gzfile(file$path, "rb")
  to <- file(path, "wb")
  size <- 0
  tryCatch(
    repeat {
      block <- readBin(from, "raw", 2^24)
      if (length(block) == 0) break
      writeBin(block, to)
      size <- size + length(block)
      check_unpacked(size, file.size(file$path), file)
    },
    error = function(cnd) {
      if (inherits(cnd, "backfill_error")) {
        rlang::cnd_signal(cnd)
      } else {
        stop_gzip(file)
      }
    },
    warning = function(cnd) stop_gzip(file),
    finally = {
      close(from)
      close(to)
    }
  )
  check_copied(path, size, file)
  if (!gzip_holds(file$path, size)) {
    stop_gzip(file)
  }
  if (size == 0) {
    abort_backfill("file", "{basename(file$shown)} is empty.")
  }
  path
}

# Bytes that a compressed file may hold; what is more than 200 times its size is
# let through up to 256 MiB only.
unpack_limit <- function() getOption("backfill.unpack_bytes", 16 * 1024^3)

check_unpacked <- function(size, packed, file) {
  limit <- min(unpack_limit(), max(2^28, 200 * packed))
  if (size > limit) {
    abort_backfill(
      "file",
      "{basename(file$shown)} holds more than {thousands(floor(limit / 2^20))}",
      "MiB, unpacked.",
      i = "The limit is 200 times its size or 256 MiB, whichever is more, and",
      "16 GiB, or what the option backfill.unpack_bytes says.",
      ">" = "Where it is to be read all the same, unpack it first."
    )
  }
}

stop_gzip <- function(file) {
  abort_backfill(
    "file",
    "{basename(file$shown)} is damaged or was cut short: what it holds is not",
    "what it says.",
    ">" = "Fetch it again; gzip -t tests it."
  )
}

# A temporary file has all that was written to it, unless the disk is full.
check_copied <- function(path, size, file) {
  if (file.size(path) != size) {
    abort_backfill(
      "file",
      "{basename(file$shown)} cannot be unpacked or converted: the temporary",
      "folder {tempdir()} is full.",
      ">" = "Free some space, or name another folder in TMPDIR."
    )
  }
}

# Each member of a gzip file (several may stand behind each other) ends with the
# size of what it holds; where these sizes do not add up to `size`, it was cut
# short or is damaged. What looks like the start of a member may be chance.
gzip_holds <- function(path, size) {
  bytes <- readBin(path, "raw", file.size(path))
  n <- length(bytes)
  if (n < 18) {
    return(FALSE)
  }
  size_before <- function(at) sum(as.numeric(bytes[at - 4:1]) * 256^(0:3))
  last <- size_before(n + 1)
  if (last == size %% 2^32) {
    return(TRUE)
  }
  at <- which(bytes == as.raw(0x1f))
  at <- at[at > 18 & at < n - 16]
  at <- at[
    bytes[at + 1] == as.raw(0x8b) & bytes[at + 2] == as.raw(8) &
      bytes[at + 3] <= as.raw(0x1f)
  ]
  sizes <- vapply(at, size_before, 0)
  # Chance puts a size that no member has: leave out what is too large, then one
  # by one.
  sizes <- sizes[sizes <= size]
  total <- sum(sizes) + last
  total == size || any(total - sizes == size)
}

last_bytes <- function(path, count) {
  from <- file(path, "rb")
  on.exit(close(from))
  count <- min(count, file.size(path))
  seek(from, file.size(path) - count)
  readBin(from, "raw", count)
}

# The path of the first lines of a text file, about `most` bytes, where it is
# longer; its own where it is not.
first_lines <- function(path, most, quote, scratch) {
  if (file.size(path) <= most) {
    return(path)
  }
  bytes <- readBin(path, "raw", most)
  # A line ends where it does so outside of quotes.
  ends <- which(bytes == as.raw(10L))
  if (nzchar(quote)) {
    ends <- ends[cumsum(bytes == charToRaw(quote))[ends] %% 2 == 0]
  }
  if (length(ends) == 0) {
    return(path)
  }
  part <- tempfile(tmpdir = scratch)
  writeBin(bytes[seq_len(ends[[length(ends)]])], part)
  part
}

known_encoding <- function(encoding) {
  !inherits(tryCatch(iconv("", encoding, "UTF-8"), error = identity), "error")
}

# The path of a file whose lines end as they do today: not with CR alone, and
# the header with an end at all.
with_line_ends <- function(path, scratch) {
  if (file.size(path) == 0 || any(readBin(path, "raw", 2^16) == as.raw(10L))) {
    return(path)
  }
  bytes <- readBin(path, "raw", file.size(path))
  if (!any(bytes == as.raw(10L))) {
    bytes[bytes == as.raw(13L)] <- as.raw(10L)
  }
  mended <- tempfile(tmpdir = scratch)
  writeBin(c(bytes, as.raw(10L)), mended)
  mended
}

# The path of the file in UTF-8, which is its own where it is in UTF-8 already.
in_utf8 <- function(file, encoding, scratch) {
  start <- readBin(file$path, "raw", 4)
  marked <- function(...) length(start) > 1 && all(start[1:2] == as.raw(c(...)))
  from <- encoding %||% (if (marked(0xff, 0xfe) || marked(0xfe, 0xff)) "UTF-16")
  if (is.null(from) || toupper(from) %in% c("UTF-8", "UTF8")) {
    return(file$path)
  }
  bytes <- list(readBin(file$path, "raw", file.size(file$path)))
  converted <- iconv(bytes, from, "UTF-8", toRaw = TRUE)[[1]]
  if (is.null(converted)) {
    abort_backfill(
      "file", "{basename(file$shown)} cannot be read as {from}.",
      ">" = "Say in which encoding it is: `encoding`, such as \"latin1\",",
      "\"windows-1252\" or \"UTF-8\"."
    )
  }
  path <- tempfile(tmpdir = scratch)
  writeBin(converted, path)
  check_copied(path, length(converted), file)
  path
}
