package kept

import (
	"context"
	"encoding/json"

	"aftermath/internal/desk"
	"aftermath/internal/view/report"
)

const houseStyle = "house style"

// HouseStyle is how pictures look in all studies.
func (k *Keeper) HouseStyle(ctx context.Context) (report.Style, error) {
	out := report.UsualStyle()
	value, err := k.store.Setting(ctx, houseStyle)
	if err != nil || value == nil {
		return out, err
	}
	return out, json.Unmarshal(value, &out)
}

// SetHouseStyle sets how pictures look in all studies. What was frozen stays as it is.
func (k *Keeper) SetHouseStyle(ctx context.Context, s report.Style) error {
	if err := s.Check(); err != nil {
		return err
	}
	value, err := json.Marshal(s)
	if err != nil {
		return err
	}
	if err := k.store.PutSetting(ctx, houseStyle, value); err != nil {
		return err
	}
	k.desk.Events.Send(desk.Event{Kind: "style"})
	return nil
}
