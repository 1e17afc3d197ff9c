package kept

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
func (k *Keeper) KeptFocuses(ctx context.Context, question int64) ([]KeptFocus, error) {
	all, err := k.store.Focuses(ctx, question)
	out := []KeptFocus{}
	for _, f := range all {
		one := KeptFocus{Name: f.Name}
		data, err := earlier.Focus(f.Conditions)
		if err == nil {
			err = json.Unmarshal(data, &one.Conditions)
		}
		if err != nil {
			return nil, fmt.Errorf("focus %q: %w", f.Name, err)
		}
		out = append(out, one)
	}
	return out, err
}

// KeepFocus keeps a focus of a question under its name, in place of an earlier one of that name.
func (k *Keeper) KeepFocus(ctx context.Context, question int64, f KeptFocus) error {
	if _, err := k.store.Question(ctx, question); err != nil {
		return err
	}
	if len(f.Conditions) > focus.MaxConditions {
		return fmt.Errorf("%w: a focus has up to %d conditions", state.ErrRequest, focus.MaxConditions)
	}
	conditions, err := json.Marshal(f.Conditions)
	if err != nil {
		return err
	}
	return k.store.KeepFocus(ctx, store.Focus{QuestionID: question, Name: f.Name, Conditions: conditions})
}

// DropFocus forgets a kept focus; one that is not there is no error.
func (k *Keeper) DropFocus(ctx context.Context, question int64, name string) error {
	return k.store.DropFocus(ctx, question, name)
}
