package text

import "strings"

// written are English contractions that are written out whole, with and without their apostrophe. Forms that are
// words of their own without it ("wont", "ill", "well", "were", "cant", "its", "lets") stand only with it.
var written = map[string]string{
	"can't": "can not", "won't": "will not", "shan't": "shall not", "ain't": "is not", "let's": "let us", "i'm": "i am",
	"im": "i am", "ive": "i have", "youre": "you are", "youve": "you have", "youll": "you will", "theyre": "they are",
	"theyve": "they have", "theyll": "they will", "weve": "we have", "thats": "that is", "theres": "there is",
	"whats": "what is", "wheres": "where is", "hows": "how is", "whos": "who is",
	"dont": "do not", "doesnt": "does not", "didnt": "did not", "isnt": "is not", "arent": "are not", "wasnt": "was not",
	"werent": "were not", "hasnt": "has not", "havent": "have not", "hadnt": "had not", "couldnt": "could not",
	"wouldnt": "would not", "shouldnt": "should not", "mustnt": "must not", "neednt": "need not",
}

var endings = []struct{ ending, with string }{{"n't", " not"}, {"'re", " are"}, {"'ve", " have"}, {"'ll", " will"}}

// isBefore are the words after which 's is "is"; after any other it is a possessive.
var isBefore = map[string]bool{"it": true, "that": true, "there": true, "here": true, "he": true, "she": true,
	"what": true, "who": true, "where": true, "how": true}

// elided are the French and Italian words that lose their vowel before another word.
var elided = map[string]map[string]bool{
	"fr": set("l d j m t s n c qu jusqu lorsqu puisqu quoiqu"),
	"it": set("l un d dell all dall nell sull c quest quell m t s v"),
}

func set(words string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(words) {
		m[w] = true
	}
	return m
}

// contractions writes English contractions out and parts French and Italian elisions; other languages pass.
func contractions(language string) func(*reading) {
	if words := elided[language]; words != nil {
		return func(r *reading) { partElisions(r, words) }
	}
	if language != "en" {
		return func(*reading) {}
	}
	return func(r *reading) {
		eachWord(r, func(word string, start int) {
			if with, from, ok := writeOut(word); ok {
				r.replace(start+from, start+len(word), sameCase(r.text[start+from:start+len(word)], with))
			}
		})
	}
}

// partElisions puts a space for the apostrophe after one of the words.
func partElisions(r *reading, words map[string]bool) {
	for i := range len(r.text) - 1 {
		if r.text[i] != '\'' || !wordRune(firstRune(r.text[i+1:])) {
			continue
		}
		start := i
		for start > 0 && letter(r.text[start-1]) {
			start--
		}
		if !wordRune(lastRune(r.text[:start])) && words[strings.ToLower(r.text[start:i])] {
			r.replace(i, i+1, " ")
		}
	}
}

// writeOut says what word[from:] is written out as. Only a possessive loses its end alone; of a true contraction the
// whole word is written anew, so that all its words share its place.
func writeOut(word string) (with string, from int, ok bool) {
	if with, ok := written[word]; ok {
		return with, 0, true
	}
	i := strings.IndexByte(word, '\'')
	if i < 0 {
		return "", 0, false
	}
	for _, e := range endings {
		if head, ok := strings.CutSuffix(word, e.ending); ok && head != "" {
			return head + e.with, 0, true
		}
	}
	if head, ok := strings.CutSuffix(word, "'s"); ok && head != "" {
		if isBefore[head] {
			return head + " is", 0, true
		}
		return "", len(head), true
	}
	return "", 0, false
}

// sameCase writes with in capitals if given is, or with its first letter large.
func sameCase(given, with string) string {
	if with == "" || given == strings.ToLower(given) {
		return with
	}
	if given == strings.ToUpper(given) && len(given) > 2 {
		return strings.ToUpper(with)
	}
	return strings.ToUpper(with[:1]) + with[1:]
}

// mayBeWritten are the last two letters, in lower case, of the contractions written without their apostrophe.
var mayBeWritten = func() (m [1 << 10]bool) {
	for w := range written {
		if strings.IndexByte(w, '\'') < 0 {
			m[lastTwo(w)] = true
		}
	}
	return m
}()

func lastTwo(w string) int { return int(w[len(w)-2]&31)<<5 | int(w[len(w)-1]&31) }

// eachWord gives, in lower case, the runs of letters and apostrophes that may be contractions: ASCII of 2 to 24 bytes, with
// an apostrophe or an ending of those written without.
func eachWord(r *reading, visit func(word string, start int)) {
	s := r.text
	var low [24]byte
	for i := 0; i < len(s); {
		n, plain, quoted := 0, true, false
		for ; i+n < len(s); n++ {
			c := s[i+n]
			if asciiKind[c] == 1 {
				continue
			}
			if c == '\'' {
				quoted = true
			} else if c >= 0x80 {
				plain = false
			} else {
				break
			}
		}
		if n >= 2 && n <= len(low) && plain && (quoted || mayBeWritten[lastTwo(s[i:i+n])]) {
			for j := range n {
				low[j] = s[i+j]
				if low[j] >= 'A' && low[j] <= 'Z' {
					low[j] += 'a' - 'A'
				}
			}
			word := string(low[:n])
			lead := len(word) - len(strings.TrimLeft(word, "'"))
			if word = strings.Trim(word, "'"); len(word) >= 2 {
				visit(word, i+lead)
			}
		}
		i += max(n, 1)
	}
}
