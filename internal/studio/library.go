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

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/store"
)

// uses tells by hash or pool which pieces hold it, in their draft or live.
func (s *Server) uses(c *gin.Context) (map[string][]UsedIn, error) {
	rows, err := s.store.Pieces(c, siteOf(c).ID)
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

func (s *Server) removePicture(c *gin.Context) { s.removeUsed(c, "picture", s.store.RemovePicture) }
func (s *Server) removeFile(c *gin.Context)    { s.removeUsed(c, "file", s.store.RemoveFile) }

func (s *Server) removeUsed(c *gin.Context, what string, remove func(ctx context.Context, site int64, hash string) error) {
	used, err := s.uses(c)
	if err == nil {
		err = inUse(what, used[c.Param("hash")])
	}
	if err == nil {
		err = remove(c, siteOf(c).ID, c.Param("hash"))
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// replacePicture puts another picture in place of one in every draft.
func (s *Server) replacePicture(c *gin.Context) {
	var req struct {
		With string `json:"with"`
	}
	if !body(c, &req) {
		return
	}
	site, old := siteOf(c), c.Param("hash")
	with, err := s.store.Picture(c, req.With)
	if err == nil && !hashForm.MatchString(old) {
		err = store.ErrNotFound
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	rows, err := s.store.Pieces(c, site.ID)
	if err != nil {
		problem.Write(c, err)
		return
	}
	answer := Replaced{Pieces: []UsedIn{}}
	for _, row := range rows {
		if !heldIn(row.Draft)[old] {
			continue
		}
		doc := bytes.ReplaceAll(row.Draft, []byte(`"`+old+`"`), []byte(`"`+with.Hash+`"`))
		if _, err := s.store.SaveDraft(c, site.ID, row.ID, row.DraftVersion, doc); err != nil {
			problem.Write(c, err)
			return
		}
		answer.Pieces = append(answer.Pieces, UsedIn{ID: row.ID, Name: nameIn(row.Draft), Live: row.State == "live"})
	}
	c.JSON(http.StatusOK, answer)
}

var hashForm = regexp.MustCompile(`^[0-9a-f]{32}$`)

func (s *Server) files(c *gin.Context) {
	files, err := s.store.Files(c, siteOf(c).ID)
	if err != nil {
		problem.Write(c, err)
		return
	}
	used, err := s.uses(c)
	if err != nil {
		problem.Write(c, err)
		return
	}
	infos := []FileInfo{}
	for _, f := range files {
		infos = append(infos, FileInfo{f.Hash, f.Name, f.Mime, f.Bytes, orNone(used[f.Hash])})
	}
	c.JSON(http.StatusOK, infos)
}

func (s *Server) addFile(c *gin.Context) {
	raw, err := io.ReadAll(c.Request.Body)
	if err != nil {
		problem.Write(c, err)
		return
	}
	f, err := ReadFile(c.Query("name"), raw)
	if err == nil {
		err = s.store.AddFile(c, siteOf(c).ID, f)
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(http.StatusCreated, FileInfo{f.Hash, f.Name, f.Mime, f.Bytes, []UsedIn{}})
}

// ReadFile makes of an upload what visitors get: videos play, everything else
// is only ever downloaded.
func ReadFile(name string, raw []byte) (f store.File, err error) {
	if len(raw) == 0 {
		return f, fault.Fault{At: "file", Message: "This file is empty."}
	}
	mime := http.DetectContentType(raw)
	if mime != "video/mp4" && mime != "video/webm" {
		mime = "application/octet-stream"
	}
	sum := sha256.Sum256(raw)
	return store.File{Hash: hex.EncodeToString(sum[:16]), Name: fileName(name), Mime: mime, Body: raw, Bytes: len(raw)}, nil
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

func (s *Server) keepsakes(c *gin.Context) {
	kept, err := s.store.Keepsakes(c, siteOf(c).ID)
	if err != nil {
		problem.Write(c, err)
		return
	}
	infos := []KeepsakeInfo{}
	for _, k := range kept {
		infos = append(infos, KeepsakeInfo{k.ID, k.Kind, k.Name, k.Body})
	}
	c.JSON(http.StatusOK, infos)
}

func (s *Server) addKeepsake(c *gin.Context) {
	var req KeepsakeInfo
	if !body(c, &req) {
		return
	}
	req.Name = strings.TrimSpace(req.Name)
	if req.Name == "" || len([]rune(req.Name)) > 120 || strings.ContainsRune(req.Name, 0) {
		problem.Write(c, fault.Fault{At: "name", Message: "needs 1 to 120 characters"})
		return
	}
	scene := req.Body
	if req.Kind == "block" {
		var err error
		if scene, err = json.Marshal(map[string]any{"id": "kept", "name": "Kept", "kind": "plain", "blocks": []json.RawMessage{req.Body}}); err != nil {
			problem.Write(c, fault.JSON(err))
			return
		}
	} else if req.Kind != "scene" {
		problem.Write(c, fault.Fault{At: "kind", Message: "should be block or scene"})
		return
	}
	read, err := piece.ReadScene(scene)
	if err == nil {
		clean := any(read)
		if req.Kind == "block" {
			clean = read.Blocks[0]
		}
		req.ID = store.NewID()
		if req.Body, err = json.Marshal(clean); err == nil {
			err = s.store.AddKeepsake(c, siteOf(c).ID, store.Keepsake{ID: req.ID, Kind: req.Kind, Name: req.Name, Body: req.Body})
		}
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(http.StatusCreated, req)
}

func (s *Server) removeKeepsake(c *gin.Context) {
	s.removing(c, s.store.RemoveKeepsake(c, siteOf(c).ID, c.Param("id")))
}

func (s *Server) removing(c *gin.Context, err error) {
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}
