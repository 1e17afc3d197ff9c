package classifier

import "math"

// scale makes chances of scores: 1/(1+e^-(slope·score + offset)).
type scale struct{ slope, offset float64 }

func (s scale) chance(score float64) float64 { return 1 / (1 + math.Exp(-(s.slope*score + s.offset))) }

// scored is a score that a row was given by a regression that had not seen it.
type scored struct {
	row   int32
	has   bool
	score float64
}

// pull holds a scale of few scores near to slope 1 and offset 0: as much as one score would.
const pull = 1.0

// calibrated finds the scale under which what was seen is likeliest (J. Platt, 1999), by Newton steps that are halved until they
// better it.
func calibrated(of []scored) scale {
	s := scale{1, 0}
	loss := s.loss(of)
	for range 50 {
		g0, g1 := pull*(s.slope-1), pull*s.offset
		h00, h01, h11 := float64(pull), 0.0, float64(pull)
		for _, x := range of {
			p := s.chance(x.score)
			d, v := p, p*(1-p)
			if x.has {
				d = p - 1
			}
			g0, g1 = g0+d*x.score, g1+d
			h00, h01, h11 = h00+v*x.score*x.score, h01+v*x.score, h11+v
		}
		det := h00*h11 - h01*h01
		slope, offset := (h11*g0-h01*g1)/det, (h00*g1-h01*g0)/det
		next, then := s, loss
		for part := 1.0; part > 1e-6; part /= 2 {
			next = scale{s.slope - part*slope, s.offset - part*offset}
			if then = next.loss(of); then < loss {
				break
			}
		}
		if then >= loss {
			break
		}
		s, loss = next, then
	}
	if s.slope < 0 { // it orders what it has not seen the wrong way round: nothing to go by but how many there are
		n := 0
		for _, x := range of {
			if x.has {
				n++
			}
		}
		return scale{0, math.Log((float64(n) + 0.5) / (float64(len(of)-n) + 0.5))}
	}
	return s
}

// loss is how unlikely what was seen is under a scale.
func (s scale) loss(of []scored) float64 {
	sum := pull / 2 * ((s.slope-1)*(s.slope-1) + s.offset*s.offset)
	for _, x := range of {
		z := s.slope*x.score + s.offset
		if x.has {
			z = -z
		}
		sum += max(z, 0) + math.Log1p(math.Exp(-math.Abs(z)))
	}
	return sum
}

// among gives the scale for answers of which times as many have the category as of those it was found on, a share of which have
// it (the odds of Bayes' rule under other priors: M. Saerens, P. Latinne and C. Decaestecker, 2002).
func (s scale) among(share, times float64) scale {
	if share <= 0 || share >= 1 || times <= 0 {
		return s
	}
	now := min(share*times, 0.999)
	s.offset += math.Log(now / (1 - now) * (1 - share) / share)
	return s
}
