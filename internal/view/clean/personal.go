package clean

import (
	"context"

	"aftermath/core/text"
	"aftermath/internal/desk/state"
)

// PersonalData is what was found of personal data in the answers.
type PersonalData struct {
	Kinds  []PersonalFound `json:"kinds"`
	Passed []string        `json:"passed" doc:"texts that were said to be none"`
	Hidden bool            `json:"hidden,omitempty" doc:"the study masks personal data, and who asks may not see it: the texts are counted, and not listed"`
}

// PersonalFound is the personal data of a kind.
type PersonalFound struct {
	Kind    string               `json:"kind" enum:"mail,phone,card,iban,postcode,link"`
	Answers int                  `json:"answers" doc:"that hold some"`
	Texts   []state.PersonalText `json:"texts" doc:"the most frequent ones; they are shown also where they are masked elsewhere, to be looked at"`
	More    int                  `json:"more" doc:"different texts that are not listed"`
}

// maxTexts is how many texts of a kind are listed.
const maxTexts = 200

// PersonalOf tells what personal data the answers hold, with the texts where they may be seen. The first time after cleaning it reads
// all answers.
func PersonalOf(ctx context.Context, s *state.State, seen bool) (PersonalData, error) {
	found, err := s.Personal(ctx)
	if err != nil {
		return PersonalData{}, err
	}
	out := PersonalData{Kinds: []PersonalFound{}, Hidden: !seen, Passed: append([]string{}, s.Scheme.NotPersonal...)}
	for k, name := range text.PersonalKinds {
		texts := found.Texts[k]
		listed := []state.PersonalText{}
		if seen {
			listed = append(listed, texts[:min(maxTexts, len(texts))]...)
		}
		out.Kinds = append(out.Kinds, PersonalFound{name, int(found.Of[k].GetCardinality()), listed, len(texts) - len(listed)})
	}
	return out, nil
}
