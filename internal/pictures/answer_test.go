package pictures

import (
	"net/http"
	"net/http/httptest"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A page gets files as long as their sum is bounded; a small one still comes after one that was too large.
func TestTheFilesOfOnePageAreBoundedTogether(t *testing.T) {
	written := 0
	part := make([]byte, 1<<20)
	a := &answerer{view: View{Serve: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		n, _ := strconv.Atoi(r.URL.Query().Get("mb"))
		if r.URL.Query().Has("told") {
			w.Header().Set("Content-Length", strconv.Itoa(n<<20))
		}
		for range n {
			if _, err := w.Write(part); err != nil {
				return
			}
			written++
		}
	})}}
	read := func(query string) bool {
		_, ok := a.read(httptest.NewRequest(http.MethodGet, "/film?"+query, nil))
		return ok
	}
	assert.False(t, read("mb=25"), "one file")
	assert.Equal(t, 24, written)
	assert.False(t, read("mb=25&told"))
	assert.Equal(t, 24, written, "what says that it is too large is not read")
	for range 4 {
		assert.True(t, read("mb=20"))
	}
	assert.False(t, read("mb=20"), "all files together")
	assert.True(t, read("mb=15"))
	assert.False(t, read("mb=2"))
	assert.True(t, read("mb=1"))
	assert.False(t, read("mb=1"), "nothing is left")
}
