package rule

import (
	"fmt"
	"slices"
	"strings"

	"aftermath/core/lexicon"
	"aftermath/core/naming"
	"aftermath/core/survey"
)

// unselected is the problem of a condition whose values a variable can't be held against, with the nearest value it has.
func (c *compiler) unselected(n *ConditionNode, v *survey.Variable, err error) Problem {
	p := c.problem(n, "%s", strings.TrimPrefix(err.Error(), "value: "))
	for i, given := range n.Values {
		near := nearest(given, v.Values)
		if known := slices.ContainsFunc(v.Values, func(x string) bool { return strings.EqualFold(x, given) }); known || near == "" ||
			v.Numbers != nil {
			continue
		}
		values := slices.Clone(n.Values)
		values[i] = near
		p.Message += fmt.Sprintf("; the nearest is %q", near)
		p.Mend = c.mend(n, &ConditionNode{n.span, n.leaf, n.Variable, n.Op, values})
		break
	}
	return p
}

func (c *compiler) listNames() []string {
	names := slices.Concat([]string{lexicon.Negators}, lexicon.Values, lexicon.ClassLists)
	for _, l := range c.scope.View.Lexicon.Lists {
		names = append(names, l.Name)
	}
	return names
}

// unknown says that there is no such thing, with the nearest there is, if any, and the part that names that.
func (c *compiler) unknown(n Node, what, name, near string, mended Node) *op {
	p := c.problem(n, "there is no %s %q", what, name)
	if near != "" {
		p.Message += fmt.Sprintf("; the nearest is %q", near)
		p.Mend = c.mend(n, mended)
	}
	return c.failed(p)
}

func (c *compiler) unknownList(n *ListNode) *op {
	near := nearest(n.Name, c.listNames())
	return c.unknown(n, "term list", n.Name, near, &ListNode{n.span, n.leaf, near})
}

func (c *compiler) unknownCategory(n *CategoryNode, err error) *op {
	p := c.problem(n, "%s", err)
	if near := c.categoryLike(n.Path); near != "" {
		p.Message += fmt.Sprintf("; the nearest is %q", near)
		p.Mend = c.mend(n, &CategoryNode{n.span, n.leaf, c.scope.CategoryPaths[slices.Index(c.scope.Categories, near)]})
	}
	return c.failed(p)
}

// categoryLike is the path of the one category whose own name it is, else the nearest path.
func (c *compiler) categoryLike(path []string) (found string) {
	last := path[len(path)-1]
	for i, known := range c.scope.CategoryPaths {
		if strings.EqualFold(known[len(known)-1], last) {
			if found != "" {
				return "" // two of that name: which is meant can't be told
			}
			found = c.scope.Categories[i]
		}
	}
	if found == "" {
		found = nearest(naming.Path(path), c.scope.Categories)
	}
	if found == naming.Path(path) {
		return ""
	}
	return found
}
