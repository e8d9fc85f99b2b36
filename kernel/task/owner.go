package task

import "context"

type ownerKey struct{}

type owner struct {
	name       string
	background bool
}

// WithOwner says for whom tasks are done, so that nobody holds up others. In the background
// no person waits for them.
func WithOwner(ctx context.Context, name string, background bool) context.Context {
	return context.WithValue(ctx, ownerKey{}, owner{name, background})
}

// OwnerOf says for whom tasks are done, and whether in the background.
func OwnerOf(ctx context.Context) (name string, background bool) {
	o, _ := ctx.Value(ownerKey{}).(owner)
	return o.name, o.background
}
