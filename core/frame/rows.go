package frame

// Row is a category of a frame that is written down one after the other: with how deep it stands, and without its children.
type Row struct {
	Depth int `json:"depth"`
	Category
}

// Rows gives the frame as rows, each net before what is inside it.
func (f Frame) Rows() []Row {
	out := []Row{}
	for p := range f.All() {
		row := Row{len(p.Path) - 1, *p.Category}
		row.Children = nil
		out = append(out, row)
	}
	return out
}

// FromRows gives the frame back from its rows. A row that stands deeper than one below the row before it counts as one below.
func FromRows(rows []Row) Frame {
	out, _ := fromRows(rows, 0)
	return out
}

func fromRows(rows []Row, depth int) (out Frame, rest []Row) {
	out = Frame{}
	for len(rows) > 0 && rows[0].Depth >= depth {
		c := rows[0].Category
		var inside Frame
		if inside, rows = fromRows(rows[1:], depth+1); len(inside) > 0 {
			c.Children = inside
		}
		out = append(out, c)
	}
	return out, rows
}
