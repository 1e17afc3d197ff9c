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

// PersonalOf tells what personal data the answers hold. The first time after cleaning it reads all answers.
func PersonalOf(ctx context.Context, s *state.State) (PersonalData, error) {
	found, err := s.Personal(ctx)
	if err != nil {
		return PersonalData{}, err
	}
	out := PersonalData{Kinds: []PersonalFound{}, Passed: append([]string{}, s.Scheme.NotPersonal...)}
	for k, name := range text.PersonalKinds {
		texts := found.Texts[k]
		listed := append([]state.PersonalText{}, texts[:min(maxTexts, len(texts))]...)
		out.Kinds = append(out.Kinds, PersonalFound{name, int(found.Of[k].GetCardinality()), listed, len(texts) - len(listed)})
	}
	return out, nil
}
