package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"aftermath/internal/desk/earlier"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
)

// KeptFocus is a focus that was kept under a name.
type KeptFocus struct {
	Name       string      `json:"name" minLength:"1" maxLength:"200"`
	Conditions focus.Focus `json:"conditions" minItems:"1"`
}

// KeptFocuses lists the focuses of a question that were kept, by name.
func (d *Desk) KeptFocuses(ctx context.Context, question int64) ([]KeptFocus, error) {
	all, err := d.store.Focuses(ctx, question)
	out := []KeptFocus{}
	for _, f := range all {
		k := KeptFocus{Name: f.Name}
		data, err := earlier.Focus(f.Conditions)
		if err == nil {
			err = json.Unmarshal(data, &k.Conditions)
		}
		if err != nil {
			return nil, fmt.Errorf("focus %q: %w", f.Name, err)
		}
		out = append(out, k)
	}
	return out, err
}

// KeepFocus keeps a focus of a question under its name, in place of an earlier one of that name.
func (d *Desk) KeepFocus(ctx context.Context, question int64, k KeptFocus) error {
	if _, err := d.store.Question(ctx, question); err != nil {
		return err
	}
	if len(k.Conditions) > focus.MaxConditions {
		return fmt.Errorf("%w: a focus has up to %d conditions", state.ErrRequest, focus.MaxConditions)
	}
	conditions, err := json.Marshal(k.Conditions)
	if err != nil {
		return err
	}
	return d.store.KeepFocus(ctx, store.Focus{QuestionID: question, Name: k.Name, Conditions: conditions})
}

// DropFocus forgets a kept focus; one that is not there is no error.
func (d *Desk) DropFocus(ctx context.Context, question int64, name string) error {
	return d.store.DropFocus(ctx, question, name)
}
