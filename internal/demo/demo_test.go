package demo

import (
	"context"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/survey"
)

// meant is what each category of the starting frame stands for, in the generator's own topics.
var meant = map[string][]string{
	"Boarding / Waiting and queues": {
		"Queues",
	}, "Boarding / Car deck order": {"Car deck order"}, "Boarding / Signs and lanes": {"Signs and lanes"},
	"Timetable / Late running": {
		"Delays",
	}, "Timetable / Cancelled": {"Cancellations"}, "Timetable / More sailings": {"More sailings"},
	"Timetable / Bus and train links": {"Bus and train links"}, "On board / Food and drink": {"Food quality", "Food prices"},
	"On board / Toilets": {"Toilets"}, "On board / Noise and screens": {"Noise"}, "On board / Wi-fi": {"Wifi"},
	"On board / Staff and help": {
		"Rude staff", "Help from staff",
	}, "Price of travel": {"Fares"}, "Nothing to change": {"Nothing to change"},
}

// The starting frame of the demo, judged by what the generator meant: its rules find most of it and little else, and a
// fifth of the answers or more are left to code.
func TestStartingFrameAgainstTheTruth(t *testing.T) {
	s := Make(Seed, Respondents)
	p, err := Playbook(Change)
	require.NoError(t, err)
	columns := make([][]string, len(Columns))
	for _, row := range s.Rows {
		for i, cell := range row {
			columns[i] = append(columns[i], cell)
		}
	}
	answers := columns[10]
	truth := map[string]*roaring.Bitmap{}
	for i, row := range s.Truth {
		if row[1] != Change || row[2] == "" {
			continue
		}
		for topic := range strings.SplitSeq(row[2], ";") {
			if truth[topic] == nil {
				truth[topic] = roaring.New()
			}
			truth[topic].Add(uint32(i / 2)) // two questions a respondent
		}
	}
	set, err := survey.Build(Specs(), nil, columns, survey.Set{})
	require.NoError(t, err)
	r, err := p.Read(context.Background(), answers, 2, nil)
	require.NoError(t, err)
	coding, err := p.Code(t.Context(), p.View(r), answers, set.Variables, frame.NewDecisions(), nil)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(coding.Results), 12)
	found, right, wanted := 0.0, 0.0, 0.0
	for _, res := range coding.Results {
		for _, rule := range res.Rules {
			assert.Empty(t, rule.Problems, "%s: %s", res.PathName(), rule.Source)
		}
		if len(res.Children) > 0 {
			continue
		}
		topics := meant[res.PathName()]
		require.NotEmpty(t, topics, res.PathName())
		want := roaring.New()
		for _, topic := range topics {
			require.NotNil(t, truth[topic], topic)
			want.Or(truth[topic])
		}
		n, hits := float64(res.Answers.GetCardinality()), float64(res.Answers.AndCardinality(want))
		found, right, wanted = found+n, right+hits, wanted+float64(want.GetCardinality())
		t.Logf("%-34s precision %.2f  recall %.2f", res.PathName(), hits/n, hits/float64(want.GetCardinality()))
	}
	t.Logf("%-34s precision %.2f  recall %.2f", "all", right/found, right/wanted)
	assert.Greater(t, right/found, 0.75)
	assert.Greater(t, right/wanted, 0.7)
	answered := float64(r.Index.Answered().GetCardinality())
	left := answered - float64(coding.Coded.GetCardinality())
	assert.Greater(t, left/answered, 0.2, "there is work to do")
}

// The segments must differ in what they talk about, or the charts would have nothing to say.
func TestSegmentsDiffer(t *testing.T) {
	s := Make(Seed, Respondents)
	share := func(passenger, topic string) float64 {
		n, with := 0.0, 0.0
		for i, row := range s.Rows {
			if row[2] == passenger {
				n++
				if strings.Contains(s.Truth[2*i][2], topic) {
					with++
				}
			}
		}
		return with / n
	}
	assert.Greater(t, share("Commuter", "Delays"), 2*share("Tourist", "Delays"))
	assert.Greater(t, share("Tourist", "Food prices"), 2*share("Commuter", "Food prices"))
	assert.Greater(t, share("Student", "Wifi"), 2*share("Islander", "Wifi"))
}
