package report

import (
	"fmt"
	"regexp"

	"aftermath/internal/desk/state"
)

// Style is how pictures look in all studies: the style of the house.
type Style struct {
	Colours  []string `json:"colours" maxItems:"8" doc:"of categories and columns, as #rrggbb; fewer than eight: the usual ones follow"`
	Face     string   `json:"face" enum:"sans,serif"`
	Size     int      `json:"size" minimum:"9" maximum:"20" doc:"of the text, in pixels of 1/96 inch"`
	Decimals int      `json:"decimals" minimum:"0" maximum:"3" doc:"of percentages"`
	Figures  bool     `json:"figures" doc:"figures stand at bars and lines"`
	Codes    bool     `json:"codes" doc:"short codes stand before the names of categories"`
}

// UsualStyle is the style where none was set.
func UsualStyle() Style {
	return Style{Colours: []string{}, Face: "sans", Size: 13, Decimals: 1, Figures: true, Codes: true}
}

var colour = regexp.MustCompile(`^#[0-9a-f]{6}$`)

// Check says what is wrong with a style.
func (s Style) Check() error {
	for _, c := range s.Colours {
		if !colour.MatchString(c) {
			return fmt.Errorf("%w: a colour is # and six of 0 to 9 and a to f, not %q", state.ErrRequest, c)
		}
	}
	switch {
	case len(s.Colours) > 8:
		return fmt.Errorf("%w: up to eight colours are told apart", state.ErrRequest)
	case s.Face != "sans" && s.Face != "serif":
		return fmt.Errorf("%w: there is no face %q", state.ErrRequest, s.Face)
	case s.Size < 9 || s.Size > 20 || s.Decimals < 0 || s.Decimals > 3:
		return fmt.Errorf("%w: text is from 9 to 20 pixels high, and percentages have up to 3 decimals", state.ErrRequest)
	}
	return nil
}
