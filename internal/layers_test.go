package internal_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// layers are the packages from the bottom up, as docs/architecture.md draws them: each imports only those of lines before its own, or
// of its own line that stand before it. A name with /… is a folder of packages that may import one another.
var layers = []string{
	"core/…",
	"ui internal/folder internal/archive internal/browser",
	"internal/backup internal/files internal/pg internal/demo",
	"internal/store internal/accounts",
	"internal/desk/cells internal/desk/state internal/desk/focus internal/desk/earlier internal/desk/intake",
	"internal/view internal/view/…",
	"internal/desk",
	"internal/kept internal/export internal/document",
	"internal/api",
	"cmd/…",
}

func TestLayers(t *testing.T) {
	place := func(pkg string) (at int, found bool) {
		best := ""
		for i, line := range layers {
			for j, name := range strings.Fields(line) {
				folder, many := strings.CutSuffix(name, "/…")
				if (pkg == name || many && strings.HasPrefix(pkg, folder+"/")) && len(folder) > len(best) {
					best, at, found = folder, 100*i+j, true
				}
			}
		}
		return at, found
	}
	imports := map[string]map[string]bool{}
	for _, top := range []string{"../core", "../internal", "../cmd", "../ui"} {
		require.NoError(t, filepath.WalkDir(top, func(file string, d fs.DirEntry, err error) error {
			if err == nil && d.IsDir() && (d.Name() == "node_modules" || d.Name() == "testdata") {
				return fs.SkipDir
			}
			if err != nil || !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
				return err
			}
			f, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
			if err != nil {
				return err
			}
			pkg := strings.TrimPrefix(path.Dir(filepath.ToSlash(file)), "../")
			if imports[pkg] == nil {
				imports[pkg] = map[string]bool{}
			}
			for _, i := range f.Imports {
				if of, ours := strings.CutPrefix(strings.Trim(i.Path.Value, `"`), "aftermath/"); ours {
					imports[pkg][of] = true
				}
			}
			return nil
		}))
	}
	require.Greater(t, len(imports), 40)
	for pkg, of := range imports {
		if strings.HasSuffix(pkg, "test") { // for tests alone
			continue
		}
		at, found := place(pkg)
		if !assert.True(t, found, "%s is in no layer", pkg) {
			continue
		}
		for other := range of {
			below, found := place(other)
			same := below == at && strings.HasPrefix(other, path.Dir(pkg)) // of one folder of packages
			assert.True(t, found && (below < at || same), "%s imports %s, which is not below it", pkg, other)
		}
	}
}
