package studio

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"net/http"
	"regexp"
	"strings"
	"unicode"

	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/templates"
)

// uses tells by hash or pool which pieces hold it, in their draft or live.
func (s *Server) uses(c *gin.Context) (map[string][]UsedIn, error) {
	rows, err := s.store.Pieces.List(c, siteOf(c).ID)
	if err != nil {
		return nil, err
	}
	used := map[string][]UsedIn{}
	for _, row := range rows {
		live := map[string]bool{}
		if row.State == "live" {
			live = heldIn(row.Live)
		}
		all := heldIn(row.Draft)
		for held := range live {
			all[held] = true
		}
		for held := range all {
			used[held] = append(used[held], UsedIn{ID: row.ID, Name: nameIn(row.Draft), Live: live[held]})
		}
	}
	return used, nil
}

var held = regexp.MustCompile(`"([0-9a-f]{32})"|"pool":"([a-z0-9_-]+)"`)

// heldIn finds the hashes and code pools a document names, whether or not this
// program can read the rest of it.
func heldIn(doc []byte) map[string]bool {
	found := map[string]bool{}
	var tight bytes.Buffer
	if json.Compact(&tight, doc) != nil {
		return found
	}
	for _, m := range held.FindAllSubmatch(tight.Bytes(), -1) {
		found[string(m[1])+string(m[2])] = true
	}
	return found
}

// inUse refuses to take away what pieces need.
func inUse(what string, used []UsedIn) error {
	if len(used) == 0 {
		return nil
	}
	names := make([]string, len(used))
	for i, u := range used {
		names[i] = "“" + u.Name + "”"
	}
	return problem.New(http.StatusConflict, "in-use", "This "+what+" is used in "+strings.Join(names, ", ")+". Replace it there first.")
}

func (s *Server) removePicture(c *gin.Context) error {
	return s.removeUsed(c, "picture", s.store.Library.RemovePicture)
}
func (s *Server) removeFile(c *gin.Context) error {
	return s.removeUsed(c, "file", s.store.Library.RemoveFile)
}

func (s *Server) removeUsed(c *gin.Context, what string, remove func(ctx context.Context, site int64, hash string) error) error {
	used, err := s.uses(c)
	if err == nil {
		err = inUse(what, used[c.Param("hash")])
	}
	if err == nil {
		err = remove(c, siteOf(c).ID, c.Param("hash"))
	}
	if err != nil {
		return err
	}
	c.Status(http.StatusNoContent)
	return nil
}

// renamed reads another name.
func renamed(c *gin.Context) (string, error) {
	var req Renamed
	if err := body(c, &req); err != nil {
		return "", err
	}
	name := strings.TrimSpace(req.Name)
	if name == "" || len([]rune(name)) > 120 || strings.ContainsRune(name, 0) {
		return "", fault.Fault{At: "name", Message: "needs 1 to 120 characters"}
	}
	return name, nil
}

func (s *Server) renamePicture(c *gin.Context) error {
	name, err := renamed(c)
	if err == nil {
		err = s.store.Library.RenamePicture(c, siteOf(c).ID, c.Param("hash"), name)
	}
	return s.done(c, err)
}

func (s *Server) renameFile(c *gin.Context) error {
	name, err := renamed(c)
	if err == nil {
		err = s.store.Library.RenameFile(c, siteOf(c).ID, c.Param("hash"), fileName(name))
	}
	return s.done(c, err)
}

func (s *Server) renameSnippet(c *gin.Context) error {
	name, err := renamed(c)
	if err == nil {
		err = s.store.Library.RenameSnippet(c, siteOf(c).ID, c.Param("id"), name)
	}
	return s.done(c, err)
}

// replacePicture puts another picture in place of one in every draft, and where
// asked for in what is live, all at once.
func (s *Server) replacePicture(c *gin.Context) error {
	var req ReplaceRequest
	if err := body(c, &req); err != nil {
		return err
	}
	site, old := siteOf(c), c.Param("hash")
	if !hashForm.MatchString(old) || !hashForm.MatchString(req.With) {
		return fault.ErrNotFound
	}
	if _, ours := templates.Art(req.With); !ours {
		if _, err := s.store.Library.Picture(c, req.With); err != nil {
			return err
		}
	}
	rows, err := s.store.Pieces.List(c, site.ID)
	if err != nil {
		return err
	}
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return err
	}
	swap := func(doc []byte) ([]byte, error) {
		return bytes.ReplaceAll(doc, []byte(`"`+old+`"`), []byte(`"`+req.With+`"`)), nil
	}
	answer, ids := Replaced{Pieces: []UsedIn{}}, []string{}
	for _, row := range rows {
		inDraft, inLive := heldIn(row.Draft)[old], req.Live && row.State == "live" && heldIn(row.Live)[old]
		if !inDraft && !inLive {
			continue
		}
		ids = append(ids, row.ID)
		answer.Pieces = append(answer.Pieces, UsedIn{ID: row.ID, Name: nameIn(row.Draft), Live: inLive})
	}
	// What is live is read, rewritten and drawn as it is by then: a launch in between stands.
	if _, err := s.store.Pieces.Replace(c, s.act(c), ids, req.Live, swap, func(live []byte) (map[string][]byte, error) {
		p, err := piece.ParseWith(live, book)
		if err != nil {
			return nil, err
		}
		return p.Drawings(&site.Kit, nil), nil
	}); err != nil {
		return err
	}
	c.JSON(http.StatusOK, answer)
	return nil
}

var hashForm = regexp.MustCompile(`^[0-9a-f]{32}$`)

func (s *Server) files(c *gin.Context) error {
	files, err := s.store.Library.Files(c, siteOf(c).ID)
	if err != nil {
		return err
	}
	used, err := s.uses(c)
	if err != nil {
		return err
	}
	infos := []FileInfo{}
	for _, f := range files {
		infos = append(infos, FileInfo{f.Hash, f.Name, f.Mime, f.Bytes, orNone(used[f.Hash])})
	}
	c.JSON(http.StatusOK, infos)
	return nil
}

func (s *Server) addFile(c *gin.Context) error {
	raw, err := io.ReadAll(c.Request.Body)
	if err != nil {
		return err
	}
	f, err := ReadFile(c.Query("name"), raw)
	if err == nil {
		err = s.store.Library.AddFile(c, siteOf(c).ID, f)
	}
	if err != nil {
		return err
	}
	c.JSON(http.StatusCreated, FileInfo{f.Hash, f.Name, f.Mime, f.Bytes, []UsedIn{}})
	return nil
}

// ReadFile makes of an upload what visitors get: videos play, everything else
// is only ever downloaded.
func ReadFile(name string, raw []byte) (f library.File, err error) {
	if len(raw) == 0 {
		return f, fault.Fault{At: "file", Message: "This file is empty."}
	}
	mime := http.DetectContentType(raw)
	if mime != "video/mp4" && mime != "video/webm" {
		mime = "application/octet-stream"
	}
	sum := sha256.Sum256(raw)
	return library.File{Hash: hex.EncodeToString(sum[:16]), Name: fileName(name), Mime: mime, Body: raw, Bytes: len(raw)}, nil
}

// fileName keeps of a name what is one on every system.
func fileName(name string) string {
	name = strings.Map(func(c rune) rune {
		if c < ' ' || strings.ContainsRune(`/\:*?"<>|`, c) || c == 0x7f || c == 0xfffd || unicode.Is(unicode.Bidi_Control, c) {
			return '_'
		}
		return c
	}, strings.ToValidUTF8(name, "_"))
	name = strings.Trim(name, ". ")
	if r := []rune(name); len(r) > 120 {
		name = string(r[:60]) + string(r[len(r)-60:])
	}
	if name == "" {
		return "file"
	}
	return name
}

func (s *Server) snippets(c *gin.Context) error {
	kept, err := s.store.Library.Snippets(c, siteOf(c).ID)
	if err != nil {
		return err
	}
	infos := []SnippetInfo{}
	for _, k := range kept {
		infos = append(infos, SnippetInfo{k.ID, k.Kind, k.Name, k.Body})
	}
	c.JSON(http.StatusOK, infos)
	return nil
}

func (s *Server) addSnippet(c *gin.Context) error {
	var req SnippetInfo
	if err := body(c, &req); err != nil {
		return err
	}
	req.Name = strings.TrimSpace(req.Name)
	if req.Name == "" || len([]rune(req.Name)) > 120 || strings.ContainsRune(req.Name, 0) {
		return fault.Fault{At: "name", Message: "needs 1 to 120 characters"}
	}
	scene := req.Body
	if req.Kind == "block" {
		var err error
		if scene, err = json.Marshal(map[string]any{"id": "kept", "name": "Kept", "kind": "plain", "blocks": []json.RawMessage{req.Body}}); err != nil {
			return fault.JSON(err)
		}
	} else if req.Kind != "scene" {
		return fault.Fault{At: "kind", Message: "should be block or scene"}
	}
	read, err := piece.ReadScene(scene)
	if err == nil {
		clean := any(read)
		if req.Kind == "block" {
			clean = read.Blocks[0]
		}
		req.ID = pieces.NewID()
		if req.Body, err = json.Marshal(clean); err == nil {
			err = s.store.Library.AddSnippet(c, siteOf(c).ID, library.Snippet{ID: req.ID, Kind: req.Kind, Name: req.Name, Body: req.Body})
		}
	}
	if err != nil {
		return err
	}
	c.JSON(http.StatusCreated, req)
	return nil
}

func (s *Server) removeSnippet(c *gin.Context) error {
	return s.done(c, s.store.Library.RemoveSnippet(c, siteOf(c).ID, c.Param("id")))
}

// done answers what has nothing to answer but that it was done.
func (s *Server) done(c *gin.Context, err error) error {
	if err != nil {
		return err
	}
	c.Status(http.StatusNoContent)
	return nil
}
