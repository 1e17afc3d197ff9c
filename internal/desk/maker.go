package desk

import "context"

type makerKey struct{}

// MadeBy says who makes the edits that are asked for under a context, as they call themselves.
func MadeBy(ctx context.Context, name string) context.Context {
	return context.WithValue(ctx, makerKey{}, name)
}

// Maker is who makes the edits that are asked for under a context; empty where nobody said.
func Maker(ctx context.Context) string {
	name, _ := ctx.Value(makerKey{}).(string)
	return name
}
