// Package oneoftest holds lists of types against the types that there are.
package oneoftest

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/oneof"
)

// Complete fails a test where a type of the package that is being tested tells its kind and is in none of the lists, or where two
// types of a list have one kind. A type that is forgotten in its list would compile, and be refused wherever it is read.
func Complete(t *testing.T, lists ...any) {
	t.Helper()
	listed := []string{}
	for _, list := range lists {
		seen := map[string]bool{}
		of := reflect.ValueOf(list)
		for i := range of.Len() {
			k, is := of.Index(i).Interface().(oneof.Kinded)
			require.True(t, is)
			assert.False(t, seen[k.Kind()], "two types are of the kind %q", k.Kind())
			seen[k.Kind()] = true
			listed = append(listed, reflect.TypeOf(k).Name())
		}
	}
	// A test runs in the folder of its package.
	packages, err := parser.ParseDir(token.NewFileSet(), ".", func(f fs.FileInfo) bool {
		return !strings.HasSuffix(f.Name(), "_test.go")
	}, 0)
	require.NoError(t, err)
	for _, p := range packages {
		ast.Inspect(p, func(n ast.Node) bool {
			f, is := n.(*ast.FuncDecl)
			if !is || f.Recv == nil || f.Name.Name != "Kind" || len(f.Type.Params.List) > 0 {
				return true
			}
			if result := f.Type.Results; result == nil || len(result.List) != 1 || name(result.List[0].Type) != "string" {
				return true
			}
			of := name(f.Recv.List[0].Type)
			assert.True(t, slices.Contains(listed, of), "%s tells its kind and is in no list", of)
			return true
		})
	}
}

func name(of ast.Expr) string {
	if id, is := of.(*ast.Ident); is {
		return id.Name
	}
	return ""
}
