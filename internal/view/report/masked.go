package report

import (
	"bytes"
	"encoding/json"

	"aftermath/core/text"
)

// notOfData are the fields of a section that hold nothing of the data: what they hold must stay as it is.
var notOfData = map[string]bool{"id": true, "kind": true, "of": true, "at": true}

// Masked is a page as it was kept, with personal data masked in all that it says of the data. What an analyst wrote stays. Without a
// masker it is the page itself.
func Masked(page []byte, m *text.Masker) ([]byte, error) {
	if m == nil {
		return page, nil
	}
	var of map[string]any
	read := json.NewDecoder(bytes.NewReader(page))
	read.UseNumber() // figures stay to the last digit
	if err := read.Decode(&of); err != nil {
		return nil, err
	}
	sections, _ := of["sections"].([]any)
	for i, s := range sections {
		if section, _ := s.(map[string]any); section["kind"] != "text" {
			sections[i] = maskedIn(s, m)
		}
	}
	return json.Marshal(of)
}

func maskedIn(value any, m *text.Masker) any {
	switch v := value.(type) {
	case string:
		return m.Mask(v)
	case []any:
		for i := range v {
			v[i] = maskedIn(v[i], m)
		}
	case map[string]any:
		for key := range v {
			if !notOfData[key] {
				v[key] = maskedIn(v[key], m)
			}
		}
	}
	return value
}
