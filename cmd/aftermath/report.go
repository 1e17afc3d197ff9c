package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/internal/kept"
)

// reportFormats are the files that a report is written as, by their endings.
var reportFormats = map[string]string{".html": "html", ".md": "markdown", ".pptx": "pptx", ".docx": "docx", ".json": "json"}

// reportCommand writes a report of a running server as a file.
func reportCommand() *cobra.Command {
	var at server
	var study, report, frozen, out string
	c := &cobra.Command{
		Use:   "report",
		Short: "Write a report of a study as HTML, PowerPoint, Word, Markdown or JSON; the server must be running",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			format := reportFormats[strings.ToLower(filepath.Ext(out))]
			if format == "" {
				return fmt.Errorf("--out ends in %q; it must end in .html, .md, .pptx, .docx or .json", filepath.Ext(out))
			}
			file, err := at.report(c.Context(), study, report, frozen)
			if err != nil {
				return err
			}
			file.RawQuery += "&format=" + format
			return write(out, func(w io.Writer) error { return at.get(c.Context(), file.String(), w) })
		},
	}
	c.Flags().StringVar(&study, "study", "", "name or number of the study")
	c.Flags().StringVar(&report, "report", "", "name or number of the report (default: the first of the study)")
	c.Flags().StringVar(&frozen, "frozen", "", "name or number of what was frozen of it (default: as it is now)")
	c.Flags().StringVar(&out, "out", "", "file to write; its ending says what: .html, .md, .pptx, .docx or .json")
	c.Flags().StringVar(&at.address, "server", "http://127.0.0.1:8420", "where the server is; a token, where it asks for one, is taken from AFTERMATH_TOKEN")
	_ = c.MarkFlagRequired("study")
	_ = c.MarkFlagRequired("out")
	return c
}

// server is a running server.
type server struct{ address string }

// report finds the address of a report's files.
func (s server) report(ctx context.Context, study, report, frozen string) (*url.URL, error) {
	var studies []struct {
		ID   int64  `json:"id"`
		Name string `json:"name"`
	}
	if err := s.json(ctx, "/api/v1/studies", &studies); err != nil {
		return nil, err
	}
	var ids, names []string
	for _, x := range studies {
		ids, names = append(ids, strconv.FormatInt(x.ID, 10)), append(names, x.Name)
	}
	of, err := chosen("study", study, ids, names)
	if err != nil {
		return nil, err
	}
	all := "/api/v1/studies/" + of + "/reports"
	var reports []kept.ReportInfo
	if err := s.json(ctx, all, &reports); err != nil {
		return nil, err
	}
	ids, names = nil, nil
	for _, x := range reports {
		if !x.Gone {
			ids, names = append(ids, strconv.FormatInt(x.ID, 10)), append(names, x.Name)
		}
	}
	if report == "" && len(ids) > 0 {
		report = ids[0]
	}
	one, err := chosen("report", report, ids, names)
	if err != nil {
		return nil, err
	}
	file := &url.URL{Path: all + "/" + one + "/file"}
	if frozen == "" {
		return file, nil
	}
	var state kept.ReportState
	if err := s.json(ctx, all+"/"+one, &state); err != nil {
		return nil, err
	}
	ids, names = nil, nil
	for _, x := range state.Frozen {
		if !x.Gone {
			ids, names = append(ids, strconv.FormatInt(x.ID, 10)), append(names, x.Name)
		}
	}
	then, err := chosen("frozen report", frozen, ids, names)
	file.RawQuery = "frozen=" + then
	return file, err
}

// chosen is the number of what is called so, or has that number. A name comes before a number.
func chosen(what, called string, ids, names []string) (string, error) {
	if i := slices.Index(names, called); i >= 0 {
		if slices.Contains(names[i+1:], called) {
			return "", fmt.Errorf("several are called %q; give the number of the %s", called, what)
		}
		return ids[i], nil
	}
	if slices.Contains(ids, called) {
		return called, nil
	}
	if len(names) == 0 {
		return "", fmt.Errorf("there is no %s yet", what)
	}
	return "", fmt.Errorf("there is no %s %q; there are: %s", what, called, strings.Join(names, ", "))
}

func (s server) json(ctx context.Context, path string, to any) error {
	read, write := io.Pipe()
	go func() { _ = write.CloseWithError(s.get(ctx, path, write)) }()
	defer read.Close()
	return json.NewDecoder(read).Decode(to)
}

// get writes what the server gives at a path.
func (s server) get(ctx context.Context, path string, to io.Writer) error {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, strings.TrimSuffix(s.address, "/")+path, nil)
	if err != nil {
		return err
	}
	if token := os.Getenv("AFTERMATH_TOKEN"); token != "" {
		request.Header.Set("Authorization", "Bearer "+token)
	}
	reply, err := http.DefaultClient.Do(request)
	if err != nil {
		return fmt.Errorf("no server answers at %s; start it with aftermath serve, or say where it is with --server: %w", s.address, err)
	}
	defer reply.Body.Close()
	if reply.StatusCode != http.StatusOK {
		var problem struct {
			Detail string `json:"detail"`
		}
		_ = json.NewDecoder(io.LimitReader(reply.Body, 1<<16)).Decode(&problem)
		return fmt.Errorf("the server said %s: %s", reply.Status, problem.Detail)
	}
	_, err = io.Copy(to, reply.Body)
	return err
}
