package chart

import "aftermath/internal/desk/focus"

// Drawn is all that a chart is made of: what it is of, and how it is drawn.
type Drawn struct {
	Focus focus.Focus `json:"focus" doc:"the answers that it is of"`
	Query Query       `json:"query"`
	As    string      `json:"as,omitempty" enum:"bars,stack,table,dots,heat,lines" doc:"how it is drawn; bars if left out"`
	Cells string      `json:"cells,omitempty" maxLength:"300" doc:"what its cells hold besides the share"`
}
