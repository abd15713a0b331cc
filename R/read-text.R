# Text files made ready for the readers: decompressed, and in UTF-8.

# The path of the decompressed file.
gunzip <- function(file, scratch, call) {
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
    },
    finally = {
      close(from)
      close(to)
    }
  )
  # A gzip file ends with the size of what it holds; where that differs, it was cut short or is damaged.
  end <- last_bytes(file$path, 4)
  said <- sum(as.numeric(end) * 256^(0:3))
  if (length(end) < 4 || said != size %% 2^32) {
    abort_backfill("file", sprintf("%s is damaged or was cut short: it holds %s bytes and should hold %s.",
                                   basename(file$shown), format(size, big.mark = ","), format(said, big.mark = ",")),
                   ">" = "Fetch it anew; gzip -t tests it.", call = call)
  }
  if (size == 0) {
    abort_backfill("file", sprintf("%s is empty.", file$shown), call = call)
  }
  path
}

last_bytes <- function(path, count) {
  from <- file(path, "rb")
  on.exit(close(from))
  seek(from, max(file.size(path) - count, 0))
  readBin(from, "raw", count)
}

# The path of the first lines of a text file, about `most` bytes, where it is longer; its own where it is not.
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

# The path of the file in UTF-8, which is its own where it is in UTF-8 already.
in_utf8 <- function(file, encoding, scratch, call) {
  start <- readBin(file$path, "raw", 4)
  marked <- function(...) length(start) > 1 && all(start[1:2] == as.raw(c(...)))
  from <- encoding %||% (if (marked(0xff, 0xfe) || marked(0xfe, 0xff)) "UTF-16")
  if (is.null(from) || toupper(from) %in% c("UTF-8", "UTF8")) {
    return(file$path)
  }
  bytes <- list(readBin(file$path, "raw", file.size(file$path)))
  converted <- iconv(bytes, from, "UTF-8", toRaw = TRUE)[[1]]
  if (is.null(converted)) {
    abort_backfill("file", sprintf("%s cannot be read as %s.", basename(file$shown), from),
                   ">" = "Say in which encoding it is: `encoding`, such as \"latin1\", \"windows-1252\" or \"UTF-8\".",
                   call = call)
  }
  path <- tempfile(tmpdir = scratch)
  writeBin(converted, path)
  path
}
