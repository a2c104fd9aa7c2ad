package desk

// In gives a person in a sign-in, as a request with its cookie has them.
func (p Person) In(session string) Person { p.session = session; return p }
