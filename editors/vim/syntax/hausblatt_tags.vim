" The tags of the template language, in any other syntax: in texts, attributes, styles and scripts. Files in no site are left
" alone.
if empty(findfile('hausblatt.toml', fnameescape(expand('%:p:h')) . ';'))
  finish
endif
runtime syntax/hausblatt_words.vim
syntax cluster hausblattAll contains=@hausblattInTag,hausblattTag,hausblattEscape,hausblattComment,hausblattPart
" A plus in front of it makes the two characters text. A tag has no empty line, and none begins in another. Styles and scripts
" are syntaxes of their own, whose groups have to be named.
for s:where in ['containedin=ALLBUT,@hausblattAll', 'contained containedin=css.*,javaScript.*']
  execute 'syntax region hausblattTag matchgroup=hausblattBracket start=/+\@<!+{#\@!/ end=/}/ end=/^\s*$/me=s-1 end=/+{/me=s-1 contains=@hausblattInTag' s:where
  execute 'syntax region hausblattComment matchgroup=hausblattComment start=/+\@<!+{#/ end=/#}/ contains=hausblattPart' s:where
endfor
syntax region hausblattPart matchgroup=hausblattPart start=/+{#/ end=/#}/ contained contains=hausblattPart
highlight default link hausblattPart Comment
syntax sync minlines=200
