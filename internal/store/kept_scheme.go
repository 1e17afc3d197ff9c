package store

import (
	"context"
	"fmt"
	"reflect"

	"gorm.io/gorm/schema"

	"aftermath/core/playbook"
)

// schemeColumn reads and writes schemes in a column of JSON. What earlier versions of this program wrote is read in the form of today.
type schemeColumn struct{ schema.JSONSerializer }

func init() { schema.RegisterSerializer("scheme", schemeColumn{}) }

// Scan reads a scheme.
func (schemeColumn) Scan(ctx context.Context, field *schema.Field, to reflect.Value, from any) error {
	var data []byte
	switch v := from.(type) {
	case []byte:
		data = v
	case string:
		data = []byte(v)
	default:
		return fmt.Errorf("a scheme is kept as %T", from)
	}
	p, err := playbook.ReadKept(data)
	if err != nil {
		return fmt.Errorf("read the scheme that is kept: %w", err)
	}
	return field.Set(ctx, to, p)
}
