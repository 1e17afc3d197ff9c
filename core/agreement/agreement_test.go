package agreement

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/playbook"
)

var answers = []string{"queue", "tea", "queue and tea", "boat", "queue again", "n/a"}

func coding(t require.TestingT) *frame.Coding {
	p := playbook.New("en")
	p.Frame = frame.Frame{
		{Name: "Waiting", Rules: []string{"queue"}},
		{Name: "On board", Children: []frame.Category{{Name: "Drinks", Code: 31, Rules: []string{"tea"}}, {Name: "Rest"}}},
		{Name: "Land", Children: []frame.Category{{Name: "Rest", Rules: []string{"boat"}}}},
	}
	p.Frame.Complete(nil, 0)
	r, err := p.Read(context.Background(), answers, 1, nil)
	require.NoError(t, err)
	c, err := p.Code(context.Background(), p.View(r), answers, nil, frame.NewDecisions(), nil)
	require.NoError(t, err)
	return c
}

func frameOf(c *frame.Coding) (f frame.Frame) {
	for _, r := range c.Results {
		if len(r.Path) == 1 {
			f = append(f, *r.Category)
		}
	}
	return f
}

func TestReadASample(t *testing.T) {
	c := coding(t)
	row := func(id string) (uint32, bool) { return uint32(id[0] - 'a'), id >= "a" && id <= "f" }
	s, err := Read([][]string{
		{"Category", "id"}, {"waiting", "a"}, {"31", "b"}, {"On board / Drinks", "c"}, {"Waiting", "c"}, {"", "d"}, {"land / rest", "e"}, {"", ""},
	}, frameOf(c), row)
	require.NoError(t, err)
	key := func(i int) string { return c.Results[i].ID }
	assert.Equal(t, Sample{
		0: {key(0): true}, 1: {key(2): true}, 2: {key(0): true, key(2): true}, 3: {}, 4: {key(5): true},
	}, s)
	for want, table := range map[string][][]string{
		"line 3: there is no respondent \"z\"":  {{"id", "category"}, {"a", ""}, {"z", ""}},
		"\"Rest\" names 2 categories":           {{"id", "category"}, {"a", "Rest"}},
		"\"On board\" names 0 categories":       {{"id", "category"}, {"a", "On board"}},
		"one called id and one called category": {{"name", "category"}, {"a", ""}},
		"holds no answers":                      {{"id", "category"}},
	} {
		_, err := Read(table, frameOf(c), row)
		require.ErrorIs(t, err, ErrSample)
		assert.ErrorContains(t, err, want)
	}
}

// Every figure is what counting answer by answer gives.
func TestAgainstCounting(t *testing.T) {
	c := coding(t)
	rapid.Check(t, func(t *rapid.T) {
		s := Sample{}
		for row := range answers {
			if rapid.Bool().Draw(t, "drawn") {
				s[uint32(row)] = map[string]bool{}
				for _, r := range c.Results {
					if len(r.Children) == 0 && rapid.Bool().Draw(t, "given") {
						s[uint32(row)][r.ID] = true
					}
				}
			}
		}
		got := Of(c, s, nil)
		assert.Equal(t, len(s), got.Answers)
		whole := 0
		for row, given := range s {
			same := true
			for _, r := range c.Results {
				same = same && (len(r.Children) > 0 || r.Answers.Contains(row) == given[r.ID])
			}
			if same {
				whole++
			}
		}
		assert.Equal(t, whole, got.Whole)
		both, all := 0, 0
		for _, x := range got.Categories {
			r, _ := c.Of(x.ID)
			n := [2][2]int{}
			for row, given := range s {
				n[number(r.Answers.Contains(row))][number(given[x.ID])]++
			}
			assert.Equal(t, []int{n[1][1], n[1][0], n[0][1], n[0][0]}, []int{x.Both, x.Only, x.Missed, x.Neither}, x.Name)
			assert.Len(t, x.OnlyRows, x.Only)
			assert.Len(t, x.MissedRows, x.Missed)
			both, all = both+x.Both, all+x.Both+x.Only+x.Missed+x.Neither
		}
		assert.Equal(t, both, got.Overall.Both)
		for _, x := range got.Instead {
			n := 0
			for row, given := range s {
				var only, missed bool
				for _, r := range c.Results {
					has := r.Answers.Contains(row)
					only = only || len(r.Children) == 0 && r.PathName() == x.Only && has && !given[r.ID]
					missed = missed || len(r.Children) == 0 && r.PathName() == x.Missed && !has && given[r.ID]
				}
				n += number(only && missed)
			}
			assert.Equal(t, n, x.Answers, "%s instead of %s", x.Only, x.Missed)
		}
		// What the coding gives, taken down as a coder, is between two coders what the coding is to a sample.
		as := Sample{}
		for row := range s {
			as[row] = map[string]bool{}
			for _, r := range c.Results {
				as[row][r.ID] = r.Answers.Contains(row)
			}
		}
		assert.Equal(t, got, Between(c, as, s, nil))
		assert.Equal(t, 4*len(s), all, "every answer and category counts once, nets aside")
	})
}
