package playbook

import (
	"cmp"
	"context"
	"slices"
	"sync"
	"sync/atomic"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
	"aftermath/core/text"
)

// Hazard is an order of two cleaning steps that spoils some answers.
type Hazard struct {
	text.Hazard
	Answers *roaring.Bitmap
	Mended  []text.Step // the steps with the first of the two moved behind the second
}

// inspected is how many answers one worker looks at before it tells how far it is.
const inspected = 4096

// Inspect looks through all answers for what the order of the cleaning steps spoils. It cleans each answer several times
// over: seconds at a million answers.
func (p Playbook) Inspect(ctx context.Context, answers []string, workers int, progress func(done int)) ([]Hazard, error) {
	in, err := text.NewInspector(p.Language, p.Cleaning)
	if err != nil {
		return nil, err
	}
	var mu sync.Mutex
	found := map[text.Hazard]*roaring.Bitmap{}
	var done atomic.Int64
	err = parallel.Each(ctx, workers, (len(answers)+inspected-1)/inspected, func() func(int) {
		var c text.Cleaned
		return func(n int) {
			from := n * inspected
			part := answers[from:min(from+inspected, len(answers))]
			own := map[text.Hazard][]uint32{}
			for i, a := range part {
				if i%256 == 0 && ctx.Err() != nil {
					return
				}
				for _, h := range in.Inspect(a, &c) {
					own[h] = append(own[h], uint32(from+i))
				}
			}
			mu.Lock()
			for h, at := range own {
				if found[h] == nil {
					found[h] = roaring.New()
				}
				found[h].AddMany(at)
			}
			mu.Unlock()
			if progress != nil {
				progress(int(done.Add(int64(len(part)))))
			}
		}
	})
	if err != nil {
		return nil, err
	}
	out := []Hazard{}
	for h, set := range found {
		out = append(out, Hazard{h, set, text.Moved(p.Cleaning, h.First, h.Second)})
	}
	slices.SortFunc(out, func(a, b Hazard) int {
		return cmp.Or(int(b.Answers.GetCardinality())-int(a.Answers.GetCardinality()), a.First-b.First, a.Second-b.Second)
	})
	return out, nil
}
