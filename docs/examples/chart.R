# Prints category frequency by the values of a segment: a small client of the API. It needs the packages curl and jsonlite.
#
#   Rscript chart.R http://127.0.0.1:8420 QUESTION SEGMENT [TOKEN]

# Asks for a route; a refusal is an error with the server's own words.
ask <- function(server, path, token = NULL, ...) {
  query <- list(...)
  words <- paste(names(query), curl::curl_escape(unlist(query)), sep = "=", collapse = "&")
  handle <- curl::new_handle(timeout = 60)
  if (!is.null(token)) curl::handle_setheaders(handle, Authorization = paste("Bearer", token))
  reply <- curl::curl_fetch_memory(paste0(server, "/api/v1", path, "?", words), handle)
  text <- rawToChar(reply$content)
  Encoding(text) <- "UTF-8"
  body <- jsonlite::fromJSON(text, simplifyVector = FALSE)
  if (reply$status_code >= 400) stop(body$detail, call. = FALSE)
  body
}

# The shares of a table, in percent: a row for each category, a column for each value of the segment and for all.
shares <- function(server, question, segment, token = NULL) {
  focus <- '[{"kind":"coded"}]'
  chart <- ask(server, paste0("/questions/", question, "/chart"), token, by = segment, focus = focus)
  cells <- lapply(chart$cells, function(row) vapply(row, function(cell) 100 * cell$share, 0))
  out <- data.frame(category = vapply(chart$rows, `[[`, "", "path"), do.call(rbind, cells), check.names = FALSE)
  names(out)[-1] <- vapply(chart$columns, `[[`, "", "name")
  out
}

arguments <- commandArgs(trailingOnly = TRUE)
token <- if (length(arguments) > 3) arguments[4]
table <- shares(arguments[1], arguments[2], arguments[3], token)
table[-1] <- lapply(table[-1], sprintf, fmt = "%.1f")
write.table(table, sep = "\t", quote = FALSE, row.names = FALSE)
