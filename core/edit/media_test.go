package edit_test

import (
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is said of a picture is found wherever it is shown, and written where another text stood.
func TestAlternativeTextsOfAPicture(t *testing.T) {
	c := item.NewSet()
	put := func(a, text string) item.Address {
		at := item.MustAddress(a)
		c.Put(item.Head{Address: at}, []byte(text))
		return at
	}
	picture := item.MustAddress("media/a.jpg")
	users := []item.Address{
		put("page/home", `<img src="/media/a.jpg" alt="Door"><img src="/media/b.jpg" alt="Door">`+
			`<img src="/media/a.jpg?v=2">`),
		put("section/hours", `<img alt="Door" src="/media/a.jpg">`), put("setting/icon", `"/media/a.jpg"`),
		item.MustAddress("page/gone"),
	}
	got, err := edit.Alternatives(c, users, picture)
	require.NoError(t, err)
	assert.Equal(t, []edit.SaidText{{Text: "Door", Items: users[:2]}, {Missing: true, Items: users[:1]}}, got)

	door, nothing := "Door", ""
	list, err := edit.WriteAlternative(c, users, picture, &door, `The "door"`)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, `<img src="/media/a.jpg" alt="The &quot;door&quot;"><img src="/media/b.jpg" alt="Door">`+
		`<img src="/media/a.jpg?v=2">`, string(list[0].Content))
	list, err = edit.WriteAlternative(c, users, picture, nil, "Door")
	require.NoError(t, err)
	require.Len(t, list, 1, "where none stood")
	list, err = edit.WriteAlternative(c, users, picture, &nothing, "Door")
	require.NoError(t, err)
	assert.Empty(t, list, "a picture that is to say nothing is another thing")
}

// A picture that was cropped is offered in none of its old sizes.
func TestSizesOfACroppedPicture(t *testing.T) {
	c := item.NewSet()
	home := item.MustAddress("page/home")
	c.Put(item.Head{Address: home}, []byte(`<img src="/media/a.jpg" `+
		`srcset="/media/a-480.webp 480w, /media/a-960.webp 960w" `+
		`sizes="100vw" width="1600" height="900" alt=""><img src="/media/b.jpg" width="5" alt="">`))
	out, sizes, err := edit.WithoutSizes(c, []item.Address{home}, item.MustAddress("media/a.jpg"), 800, 600)
	require.NoError(t, err)
	assert.Equal(t, []edit.Sized{{Width: 480, At: item.MustAddress("media/a-480.webp")},
		{Width: 960, At: item.MustAddress("media/a-960.webp")}}, sizes)
	require.Len(t, out, 1)
	assert.Equal(t, `<img src="/media/a.jpg" width="800" height="600" alt=""><img src="/media/b.jpg" width="5" alt="">`,
		string(out[0].Content))
}
