package library

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/route"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio/parts"
	"gobbet/internal/templates"
	"gobbet/internal/uploads"
)

// inUse refuses to take away what pieces need.
func inUse(what string, used []parts.UsedIn) error {
	if len(used) == 0 {
		return nil
	}
	names := make([]string, len(used))
	for i, u := range used {
		names[i] = "“" + u.Name + "”"
	}
	return problem.New(http.StatusConflict, "in-use", "This "+what+" is used in "+strings.Join(names, ", ")+". Replace it there first.")
}

func (s *Place) removePicture(c *route.Call, _ route.None) (answer route.None, err error) {
	return s.removeUsed(c, "picture", s.store.Library.RemovePicture)
}

func (s *Place) removeFile(c *route.Call, _ route.None) (answer route.None, err error) {
	return s.removeUsed(c, "file", s.store.Library.RemoveFile)
}

func (s *Place) removeUsed(c *route.Call, what string, remove func(ctx context.Context, site int64, hash string) error) (answer route.None, err error) {
	used, err := s.read.Uses(c)
	if err == nil {
		err = inUse(what, used[c.Param("hash")])
	}
	if err == nil {
		err = remove(c, c.Site.ID, c.Param("hash"))
	}
	return answer, err
}

// checked is the name that something is to have.
func (r Renamed) checked() (string, error) {
	name := strings.TrimSpace(r.Name)
	if name == "" || len([]rune(name)) > 120 || strings.ContainsRune(name, 0) {
		return "", fault.Fault{At: "name", Message: "needs 1 to 120 characters"}
	}
	return name, nil
}

func (s *Place) renamePicture(c *route.Call, req Renamed) (answer route.None, err error) {
	name, err := req.checked()
	if err == nil {
		err = s.store.Library.RenamePicture(c, c.Site.ID, c.Param("hash"), name)
	}
	return answer, err
}

func (s *Place) renameFile(c *route.Call, req Renamed) (answer route.None, err error) {
	name, err := req.checked()
	if err == nil {
		err = s.store.Library.RenameFile(c, c.Site.ID, c.Param("hash"), uploads.FileName(name))
	}
	return answer, err
}

func (s *Place) renameSnippet(c *route.Call, req Renamed) (answer route.None, err error) {
	name, err := req.checked()
	if err == nil {
		err = s.store.Library.RenameSnippet(c, c.Site.ID, c.Param("id"), name)
	}
	return answer, err
}

// replacePicture puts another picture in place of one in every draft, and where
// asked for in what is live, all at once.
func (s *Place) replacePicture(c *route.Call, req ReplaceRequest) (answer Replaced, err error) {
	site, old := c.Site, c.Param("hash")
	if !uploads.IsHash(old) || !uploads.IsHash(req.With) {
		return answer, fault.ErrNotFound
	}
	if _, ours := templates.Art(req.With); !ours {
		if _, err := s.store.Library.Picture(c, req.With); err != nil {
			return answer, err
		}
	}
	rows, err := s.store.Pieces.List(c, site.ID)
	if err != nil {
		return answer, err
	}
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return answer, err
	}
	swap := func(doc []byte) ([]byte, error) {
		return bytes.ReplaceAll(doc, []byte(`"`+old+`"`), []byte(`"`+req.With+`"`)), nil
	}
	answer, ids := Replaced{Pieces: []parts.UsedIn{}}, []string{}
	for _, row := range rows {
		inDraft, inLive := parts.HeldIn(row.Draft)[old], req.Live && row.State == "live" && parts.HeldIn(row.Live)[old]
		if !inDraft && !inLive {
			continue
		}
		ids = append(ids, row.ID)
		answer.Pieces = append(answer.Pieces, parts.UsedIn{ID: row.ID, Name: parts.NameIn(row.Draft), Live: inLive})
	}
	// What is live is read, rewritten and drawn as it is by then: a launch in between stands.
	if _, err := s.store.Pieces.Replace(c, s.read.Act(c), ids, req.Live, swap, func(live []byte) (map[string][]byte, error) {
		p, err := piece.ParseWith(live, book)
		if err != nil {
			return nil, err
		}
		return p.Drawings(&site.Kit, nil), nil
	}); err != nil {
		return answer, err
	}
	return answer, nil
}

func (s *Place) files(c *route.Call, _ route.None) (answer []FileInfo, err error) {
	files, err := s.store.Library.Files(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	used, err := s.read.Uses(c)
	if err != nil {
		return answer, err
	}
	infos := []FileInfo{}
	for _, f := range files {
		infos = append(infos, FileInfo{f.Hash, f.Name, f.Mime, f.Bytes, parts.OrNone(used[f.Hash])})
	}
	return infos, nil
}

func (s *Place) addFile(c *route.Call, ask NameQuery, raw []byte) (answer FileInfo, err error) {
	f, err := uploads.ReadFile(ask.Name, raw)
	if err == nil {
		err = s.store.Library.AddFile(c, c.Site.ID, f)
	}
	if err != nil {
		return answer, err
	}
	return FileInfo{f.Hash, f.Name, f.Mime, f.Bytes, []parts.UsedIn{}}, nil
}

func (s *Place) snippets(c *route.Call, _ route.None) (answer []SnippetInfo, err error) {
	kept, err := s.store.Library.Snippets(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	infos := []SnippetInfo{}
	for _, k := range kept {
		infos = append(infos, SnippetInfo{k.ID, k.Kind, k.Name, k.Body})
	}
	return infos, nil
}

func (s *Place) addSnippet(c *route.Call, req NewSnippet) (answer SnippetInfo, err error) {
	req.Name = strings.TrimSpace(req.Name)
	if req.Name == "" || len([]rune(req.Name)) > 120 || strings.ContainsRune(req.Name, 0) {
		return answer, fault.Fault{At: "name", Message: "needs 1 to 120 characters"}
	}
	scene := req.Body
	if req.Kind == "block" {
		var err error
		if scene, err = json.Marshal(map[string]any{"id": "kept", "name": "Kept", "kind": "plain", "blocks": []json.RawMessage{req.Body}}); err != nil {
			return answer, fault.JSON(err)
		}
	} else if req.Kind != "scene" {
		return answer, fault.Fault{At: "kind", Message: "should be block or scene"}
	}
	read, err := piece.ReadScene(scene)
	if err == nil {
		clean := any(read)
		if req.Kind == "block" {
			clean = read.Blocks[0]
		}
		answer = SnippetInfo{ID: pieces.NewID(), Kind: req.Kind, Name: req.Name}
		if answer.Body, err = json.Marshal(clean); err == nil {
			err = s.store.Library.AddSnippet(c, c.Site.ID, library.Snippet{ID: answer.ID, Kind: answer.Kind, Name: answer.Name, Body: answer.Body})
		}
	}
	return answer, err
}

func (s *Place) removeSnippet(c *route.Call, _ route.None) (answer route.None, err error) {
	return answer, s.store.Library.RemoveSnippet(c, c.Site.ID, c.Param("id"))
}
