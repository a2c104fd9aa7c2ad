package httpapi

// What tests outside the package look into.
var (
	Once    = (*Server).once
	Recover = (*Server).recover
)
