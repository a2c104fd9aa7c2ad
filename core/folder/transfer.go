package folder

// ZipAsItIs is the comment of a zip whose top is the site's root, whatever it holds.
const ZipAsItIs = "the site's root"

// NotesEntry is the name of the last entry of a publication that streams: what a
// visitor may miss, as JSON. It is no file of the site.
const NotesEntry = "notes"
