package repeat

// sketch counts on how many pages a shape stands, in fixed memory: a count-min
// sketch (Cormode and Muthukrishnan, 2005). It may count too many, never too few;
// what it lets through is counted exactly afterwards.
type sketch struct {
	rows [sketchRows][sketchWidth]uint32
}

const (
	sketchRows  = 4
	sketchWidth = 1 << 16 // 1 MB in all
)

func (s *sketch) add(h shape) {
	for i := range s.rows {
		s.rows[i][cell(h, i)]++
	}
}

func (s *sketch) count(h shape) int {
	least := ^uint32(0)
	for i := range s.rows {
		least = min(least, s.rows[i][cell(h, i)])
	}
	return int(least)
}

// cell spreads a shape over a row: another mixing for each.
func cell(h shape, row int) int {
	x := uint64(h) + uint64(row+1)*0x9e3779b97f4a7c15
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return int((x ^ x>>31) % sketchWidth)
}
