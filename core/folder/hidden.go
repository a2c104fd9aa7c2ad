package folder

import "strings"

// IsHidden tells that a file or folder is hidden by its name. The folder of well-known addresses (RFC 8615) is not:
// what lies in it is there to be asked for.
func IsHidden(name string) bool { return strings.HasPrefix(name, ".") && name != ".well-known" }

// doings say what some hidden files do where they are, by their names.
var doings = map[string]string{
	".htaccess": "rules for the server that had the site: redirects, passwords, error pages. Nobody follows them " +
		"here; what it leads elsewhere ends",
	".htpasswd":      "passwords of visitors for a server; no page here asks for one",
	".user.ini":      "settings of programs on the server; none run here",
	".env":           "settings of a program, with secrets; none is needed here",
	".git":           "the history of the folder; visitors need nothing of it",
	".svn":           "the history of the folder; visitors need nothing of it",
	".hg":            "the history of the folder; visitors need nothing of it",
	".gitignore":     "a note for who keeps the folder; visitors need nothing of it",
	".gitattributes": "a note for who keeps the folder; visitors need nothing of it",
	".editorconfig":  "a note for who edits the folder; visitors need nothing of it",
	".DS_Store":      "a note of a file manager; visitors need nothing of it",
}

// whyHidden says why a hidden file or folder is left, by what it would have done.
func whyHidden(what, file, name string) string {
	if does, ok := doings[name]; ok {
		return what + ": " + does
	}
	return what + ": nothing will answer at /" + file + "; give it a name without a dot, if visitors need it"
}

// serversOwn are files without a dot that tell a server what to do, with what that is.
var serversOwn = map[string]string{
	"_redirects": "it tells a server where addresses lead that were left; it is kept as a file, and followed by none " +
		"here",
	"_headers":   "it tells a server what to say with files; it is kept as a file, and followed by none here",
	"web.config": "it tells a server where addresses lead; it is kept as a file, and followed by none here",
	"CNAME":      "it names the host of the site; it is kept as a file: say the host in the site's setting address",
}
