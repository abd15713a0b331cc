# What may be a secret is never shown, logged or kept: the password in an
# address, and whatever stands after a key that is called like one.

secret_keys <- paste0(
  "(?i)\\b((?:[a-z]+[_-]?)?(?:pass(?:word|wd|phrase|code)?|pwd|secret|token|",
  "api[_-]?key|access[_-]?key|private[_-]?key|credentials?|authorization|",
  "signature|sig)\\s*(?:=|%3d)\\s*)",
  "(?:'(?:[^'\\\\]|\\\\.)*'?|\"(?:[^\"\\\\]|\\\\.)*\"?|[^\\s;&,'\"]*)"
)

# What stands before the host: of the web by the grammar of its addresses, of
# databases whatever a password may hold.
before_host <- paste0(
  "(?i)\\b(https?://)[^/?#\\s]*@|",
  "\\b((?!https?:)[a-z][a-z0-9+.-]*://)[^\\s@\"]*:[^\\s\"]*@"
)

without_secrets <- function(text) {
  text <- gsub(before_host, "\\1\\2", text, perl = TRUE)
  gsub(secret_keys, "\\1***", text, perl = TRUE)
}

has_secret <- function(address) without_secrets(address) != address
