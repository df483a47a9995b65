" Prepare files of themes, and theme files whose first tags look like those of another language.
autocmd BufRead,BufNewFile *.let setfiletype hausblatt
autocmd BufRead,BufNewFile */themes/*.html
      \ if !empty(findfile('hausblatt.toml', fnameescape(expand('<afile>:p:h')) . ';')) | set filetype=html | endif
